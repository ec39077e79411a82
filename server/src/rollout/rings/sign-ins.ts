/** Sign-ins on the hosts of a rollout, after their change and before it. */
import { signInHealth, type SignInHealth } from '@vatline/core/rollout/rings/sign-in-health';
import { DAY, type Instant } from '@vatline/core/time/instant';
import type { Parts } from '../../platform/parts.ts';
import type { RolloutRow } from '../tables.ts';

/** A day has every hour once, with the crowds of each; the three before it are as many people again. */
const BEFORE = 3 * DAY;
/** Hosts that are looked at; a median of theirs is that of all. */
const MOST_HOSTS = 100;

/**
 * Of the first hosts that were changed: from then on to the end of the soak, against the days before the
 * rollout on the same ones. `soaked` is null while it is not known when the soak will end.
 */
export async function signInsAfter(
  { db, estate }: Pick<Parts, 'db' | 'estate'>,
  rollout: RolloutRow,
  soaked: Instant | null,
): Promise<SignInHealth> {
  const now = estate.clock.now();
  const until = Math.min(now, soaked ?? now);
  const hosts = await db
    .selectFrom('rollout_host')
    .innerJoin('known_host', 'known_host.id', 'rollout_host.host_id')
    .innerJoin('pool', 'pool.id', 'known_host.pool_id')
    .select(['known_host.name', 'finished_ms as changedAt', 'pool.name as pool'])
    .where('rollout_id', '=', rollout.id)
    .where('stage', '=', 'done')
    .orderBy('finished_ms')
    .limit(MOST_HOSTS)
    .execute();
  const [first] = hosts;
  if (!first) return signInHealth([], []);
  const began = rollout.started_ms;
  const after = hosts.map(({ name, changedAt }) => ({ host: name, from: changedAt ?? until, to: until }));
  const before = hosts.map(({ name }) => ({ host: name, from: began - BEFORE, to: began }));
  const changed = await estate.activity.signInSeconds(first.pool, after);
  const earlier = await estate.activity.signInSeconds(first.pool, before);
  return signInHealth(changed.flat(), earlier.flat(), soaked === null || now < soaked);
}
