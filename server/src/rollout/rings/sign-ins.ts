/** Sign-ins on the hosts of a rollout, after their change and before it. */
import { signInHealth, unjudgedInWords, type SignInHealth } from '@vatline/core/rollout/rings/sign-in-health';
import { DAY, type Instant } from '@vatline/core/time/instant';
import type { Parts } from '../../platform/parts.ts';
import type { RolloutRow } from '../tables.ts';

/** A day has every hour once, with the crowds of each; the three before it are as many people again. */
const BEFORE = 3 * DAY;
/** Hosts that are looked at; a median of theirs is that of all. */
const MOST_HOSTS = 100;

/**
 * Of the first hosts that were changed: from then on to the end of the soak, against the days before the
 * rollout on the same ones; where too few signed in meanwhile, for as long as it takes. `soaked` is null
 * while it is not known when the soak will end.
 */
export async function signInsAfter(
  parts: Pick<Parts, 'db' | 'estate'>,
  rollout: RolloutRow,
  soaked: Instant | null,
): Promise<SignInHealth> {
  const now = parts.estate.clock.now();
  const hosts = await changedHosts(parts, rollout);
  const earlier = await secondsOn(parts, hosts, () => rollout.started_ms - BEFORE, rollout.started_ms);
  const judge = async (until: Instant, isEarly: boolean) =>
    signInHealth(await secondsOn(parts, hosts, (host) => host.changedAt ?? until, until), earlier, isEarly);
  if (soaked === null || now < soaked) return judge(now, true);
  const inSoak = await judge(soaked, false);
  return unjudgedInWords(inSoak) === undefined ? inSoak : judge(now, true);
}

type Changed = Awaited<ReturnType<typeof changedHosts>>[number];

function changedHosts({ db }: Pick<Parts, 'db'>, rollout: RolloutRow) {
  return db
    .selectFrom('rollout_host')
    .innerJoin('known_host', 'known_host.id', 'rollout_host.host_id')
    .innerJoin('pool', 'pool.id', 'known_host.pool_id')
    .select(['known_host.name', 'finished_ms as changedAt', 'pool.name as pool'])
    .where('rollout_id', '=', rollout.id)
    .where('stage', '=', 'done')
    .orderBy('finished_ms')
    .limit(MOST_HOSTS)
    .execute();
}

async function secondsOn(
  { estate }: Pick<Parts, 'estate'>,
  hosts: readonly Changed[],
  from: (host: Changed) => Instant,
  to: Instant,
): Promise<number[]> {
  const spans = hosts.map((host) => ({ host: host.name, from: from(host), to }));
  const [first] = hosts;
  return first ? (await estate.activity.signInSeconds(first.pool, spans)).flat() : [];
}
