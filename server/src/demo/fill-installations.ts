/** The demo's applications that agents install: one that needs another first. */
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { newInstallation, type Installation } from '@vatline/core/installed/installation';
import { installations } from '@vatline/demo/installations';
import type { InstallationStore } from '../installed/store.ts';
import type { PracticeEstate } from '../estate/practice/practice-estate.ts';
import type { Parts } from '../platform/parts.ts';

export async function fillInstallations(
  parts: Parts,
  estate: PracticeEstate,
  store: InstallationStore,
): Promise<void> {
  const installers = await estate.packaging.installers();
  for (const { installer, ...planned } of installations) {
    const known = installers.find((row) => row.id === installer);
    if (!known) throw new Error(`the demo plans to install ${installer}, which is not in the library`);
    const { name, publisher, version } = known;
    const installation: Installation = { ...newInstallation({ name, publisher, version }), ...planned };
    const id = await store.add(installation);
    const folder = join(parts.dataFolder, 'filling', installer);
    await estate.packaging.source(folder, installer);
    await store.keepSource(id, await store.archived(folder));
  }
  rmSync(join(parts.dataFolder, 'filling'), { recursive: true, force: true });
}
