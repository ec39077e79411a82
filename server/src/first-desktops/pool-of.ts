/** The pool of first desktops: what the bench leaves out is as usual. */
import type { FirstDraft } from '@vatline/contract/first-desktops';
import type { PoolDraft } from '@vatline/contract/pool/kinds';
import type { Fault } from '@vatline/core/result';

export function poolDraftOf(draft: FirstDraft, imageVersionId: string): PoolDraft {
  const { pool, count, sessionLimit, pattern, unit, site, network, datastore, size } = draft;
  return {
    name: pool,
    kind: 'pooled',
    clone: 'linked',
    imageVersionId,
    sessionLimit,
    count,
    pattern,
    start: 1,
    fillGaps: true,
    ou: unit,
    places: [{ site, network, datastore }],
    size,
    atOnce: 8,
    onFault: 'go on',
  };
}

const fieldOf: Readonly<Record<string, string>> = {
  name: 'pool',
  ou: 'unit',
  imageVersionId: 'system',
  places: 'site',
  'places.0.site': 'site',
  'places.0.network': 'network',
  'places.0.datastore': 'datastore',
};

/** Faults of the pool at the fields of the bench. */
export function atFieldsOfBench(faults: readonly Fault[]): Fault[] {
  return faults.map(({ path, message }) => ({ path: fieldOf[path] ?? path, message }));
}
