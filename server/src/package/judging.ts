/** What a capture is judged with: its rules, what is known of its installer, and of other packages. */
import type { KnownPackage, SaidOfCapture } from '@vatline/core/package/guess-manifest';
import type { NoiseRule } from '@vatline/core/package/noise';
import { fromJson } from '../platform/database.ts';
import type { Parts } from '../platform/parts.ts';
import { ruleRevision } from './rule-sets.ts';
import type { CaptureRow } from './tables.ts';
import type { PackageStore } from './store.ts';

export interface JudgingParts {
  readonly folder: string;
  readonly rules: readonly NoiseRule[];
  readonly said: SaidOfCapture;
  readonly library: readonly KnownPackage[];
}

export async function judgingOf(
  parts: Parts,
  store: PackageStore,
  capture: CaptureRow,
): Promise<JudgingParts> {
  const { name, publisher, version } = fromJson<SaidOfCapture>(capture.proposal_json);
  const installers = await parts.estate.packaging.installers();
  const licence = installers.find((row) => row.name === name && row.version === version)?.licence;
  const rules =
    capture.rules_name === '' ? [] : await ruleRevision(parts.db, capture.rules_name, capture.rules_revision);
  const library = (await store.versions.named()).map(({ name, version }) => ({ name, version }));
  return {
    folder: store.captures.folder(capture.id),
    rules,
    said: { name, publisher, version, ...(licence ? { licence } : {}) },
    library,
  };
}
