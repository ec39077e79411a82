/** The Images station at the size it is made for: long recipes, large inventories, many versions. */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { writeRecipeFile } from '@vatline/contract/recipe-file';
import { checkLine } from '@vatline/core/image/checks/check-line';
import { machineState } from '@vatline/core/image/checks/check';
import { checkpointKeys, planBuild } from '@vatline/core/image/checkpoint-plan';
import { leanHardware } from '@vatline/core/image/hardware';
import { usualRecipe } from '@vatline/core/image/new-step';
import type { Step } from '@vatline/core/image/recipe';
import type { BuildSources } from '@vatline/core/image/sources';
import type { Application } from '@vatline/server/application';
import { Visitor } from '../e2e/browser.ts';

const sources: BuildSources = {
  media: [{ system: 'Desktop OS 24.2', editions: ['multi-session'], digest: 'ab'.repeat(32) }],
  release: '2027-03',
  agentVersion: '4.8',
  toolsVersion: '12.1',
  buildUnit: 'OU=Build,DC=wrenfield,DC=example',
};

/** A recipe of this many steps, most of them applications. */
function longRecipe(steps: number): Step[] {
  const base = usualRecipe(sources);
  const applications = Array.from({ length: steps - base.length }, (_, i): Step => ({
    id: `app-${i}`,
    kind: 'application',
    name: `Application ${i}`,
    publisher: `Publisher ${i % 40}`,
    version: `${i}.1`,
    command: `setup-${i}.exe /quiet`,
    exitCodes: [0, 3010],
    success: { kind: 'version', name: `Application ${i}`, atLeast: `${i}.1` },
  }));
  return [...base.slice(0, -2), ...applications, ...base.slice(-2)];
}

/** Seconds for what the screen works out at every edit of a recipe, and for writing the same recipe as YAML. */
export function editCost(steps: number): { readonly edit: () => void; readonly write: () => void } {
  const recipe = longRecipe(steps);
  const made = new Set(checkpointKeys(leanHardware, recipe).slice(0, steps / 2));
  const machine = machineState(null, undefined);
  return {
    edit: () => {
      planBuild(leanHardware, recipe, made, new Map());
      checkLine({ steps: recipe, hardware: leanHardware, machine, sources, optionSheets: [], pools: [] });
    },
    write: () => void writeRecipeFile(recipe),
  };
}

/** Brings an inventory in as a version of the demo's first line; gives the line. */
async function bringIn(address: string, file: Blob): Promise<string> {
  const lines = (await (await fetch(`${address}/api/v1/lines`)).json()) as { id: string }[];
  const lineId = lines[0]?.id ?? '';
  const form = new FormData();
  form.append('inventory', file, 'inventory.jsonl');
  const response = await fetch(`${address}/api/v1/lines/${lineId}/imports`, { method: 'POST', body: form });
  if (!response.ok) throw new Error(await response.text());
  return lineId;
}

/** Seconds from the click to the figures, for two inventories compared in the browser. */
export async function compareInBrowser(address: string, before: Blob, after: Blob): Promise<number> {
  await bringIn(address, before);
  const lineId = await bringIn(address, after);
  const visitor = await Visitor.open();
  try {
    await visitor.page.goto(`${address}/images/${lineId}/versions`);
    await visitor.sees('compare');
    // The newest version stands first, and its link compares it with the one before.
    return await visitor.page.evaluate(async () => {
      const link = [...document.querySelectorAll('a')].find((a) => a.textContent === 'compare');
      if (!link) throw new Error('there is no link to a comparison');
      const started = performance.now();
      link.click();
      while (!document.querySelector('.work h2.figure')) await new Promise(requestAnimationFrame);
      return (performance.now() - started) / 1000;
    });
  } finally {
    await visitor.close();
  }
}

/** Fills the index of the demo with versions that each hold as many applications. */
export async function fillIndex(app: Application, versions: number, applications: number): Promise<void> {
  const { db } = app;
  const [model] = await db.selectFrom('image_version').selectAll().limit(1).execute();
  if (!model) throw new Error('the demo has no version');
  await db.transaction().execute(async (tx) => {
    for (let version = 0; version < versions; version++) {
      const id = `version-bench-${version}`;
      await tx
        .insertInto('image_version')
        .values({ ...model, id, number: 10_000 + version })
        .execute();
      for (let i = 0; i < applications; i++) {
        // Every tenth version brings a newer one of each application.
        const name = `Bench application ${i}`;
        const number = `${1 + Math.floor(version / 10)}.0`;
        await tx
          .insertInto('application')
          .values({ publisher: 'Bench', name, version: number })
          .onConflict((c) => c.doNothing())
          .execute();
        const { id: application_id } = await tx
          .selectFrom('application')
          .select('id')
          .where('publisher', '=', 'Bench')
          .where('name', '=', name)
          .where('version', '=', number)
          .executeTakeFirstOrThrow();
        await tx.insertInto('version_holds').values({ version_id: id, application_id }).execute();
      }
    }
  });
}

/** Seconds of one search over HTTP, and of counting the same rows by SQL alone, each the best of five. */
export async function searchCost(
  app: Application,
  address: string,
  text: string,
): Promise<{ readonly search: number; readonly count: number }> {
  const best = async (run: () => Promise<unknown>) => {
    let least = Infinity;
    for (let i = 0; i < 5; i++) {
      const started = performance.now();
      await run();
      least = Math.min(least, performance.now() - started);
    }
    return least / 1000;
  };
  const search = await best(async () =>
    (await fetch(`${address}/api/v1/applications?q=${encodeURIComponent(text)}`)).json(),
  );
  const count = await best(() =>
    app.db
      .selectFrom('version_holds')
      .innerJoin('application', 'application.id', 'version_holds.application_id')
      .select(({ fn }) => fn.countAll<number>().as('n'))
      .where('application.name', 'like', `%${text.split(' below ')[0]}%`)
      .execute(),
  );
  return { search, count };
}

/** Writes an inventory file and gives it as a file to upload. */
export function inventoryBlob(folder: string, name: string, lines: Iterable<string>): Blob {
  const text = [...lines].join('\n') + '\n';
  writeFileSync(join(folder, name), text);
  return new Blob([text]);
}
