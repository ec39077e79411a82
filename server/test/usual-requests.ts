/** Requests that tests of the demo make: a small pool, and a rollout in the night. */

export function smallPool(name: string, imageVersionId: string | undefined, pattern: string, count: number) {
  return {
    name,
    imageVersionId,
    kind: 'pooled',
    clone: 'linked',
    pattern,
    start: 1,
    count,
    ou: 'OU=Desks,OU=Hosts,DC=wrenfield,DC=example',
    site: 'yard-a',
    datastore: 'standard',
    processors: 2,
    sessionLimit: 5,
  };
}

export function nightlyRollout<Id extends string | undefined>(poolId: Id, imageVersionId: Id, batch: number) {
  return {
    poolId,
    imageVersionId,
    packageVersionIds: [] as string[],
    window: { rule: 'FREQ=DAILY', start: '01:00', end: '05:00' },
    zone: 'Europe/Dublin',
    batch,
    maxUnavailable: batch,
    drainLimitMinutes: 30,
    reserve: null,
  };
}
