/**
 * Sessions that hold containers which new ones do not get any more. When a host is attached in service,
 * those who are on it keep what they have; each stays as long as people do who were not asked to leave.
 */
import { sql } from 'kysely';
import { seededRandom } from '@vatline/core/random';
import { MINUTE, type Instant } from '@vatline/core/time/instant';
import type { HeldMounts, Mount } from '../../driver/hosts.ts';
import type { EstateDb } from '../estate-database.ts';
import { STAY_MINUTES } from '../presence.ts';

/** Since when a container is given to nobody new, and when each session ends that holds it. */
interface Hold {
  readonly since: Instant;
  readonly ends: readonly Instant[];
}

/** What people on a host have in hand when it is attached in service; nothing where nobody is on it. */
export function holdBy(sessions: number, since: Instant, seed: string): Hold | undefined {
  if (sessions <= 0) return undefined;
  const random = seededRandom(seed);
  // Whoever is there stays for an exponential time: how long they have been there tells nothing.
  const stay = () => -Math.log(1 - random()) * STAY_MINUTES * MINUTE;
  return { since, ends: Array.from({ length: sessions }, () => since + stay()) };
}

/** The containers of some hosts that are there now, whether given to new sessions or only held; of any where none is named. */
export async function mountsNow(
  db: EstateDb,
  now: Instant,
  hosts?: readonly string[],
): Promise<(Mount & { readonly host: string })[]> {
  let asked = db
    .selectFrom('mount')
    .leftJoin('machine', 'machine.name', 'mount.host')
    .select(['host', 'digest', 'share', 'since_ms', 'held_json', 'power', 'power_since_ms'])
    .orderBy('host')
    .orderBy('digest');
  asked = hosts
    ? asked.where('host', 'in', sql<string>`(select value from json_each(${JSON.stringify(hosts)}))`)
    : asked.where('held_json', 'is not', null);
  return (await asked.execute()).flatMap(({ held_json, power, power_since_ms, since_ms, ...mount }) => {
    const heldBy = held_json === null ? null : sessionsLeft(held_json, now, { power, since: power_since_ms });
    // When the last of its sessions has ended it is gone.
    return heldBy === 0 ? [] : [{ ...mount, since: since_ms, heldBy }];
  });
}

/** Sessions end with their host, whether it is switched off or starts anew. */
function sessionsLeft(
  json: string,
  now: Instant,
  machine: { readonly power: string | null; readonly since: Instant | null },
): number {
  const { since, ends } = JSON.parse(json) as Hold;
  const wasOn = machine.power === 'on' && (machine.since ?? 0) <= since;
  return wasOn ? ends.filter((end) => end > now).length : 0;
}

export async function heldMounts(
  db: EstateDb,
  now: Instant,
  hosts?: readonly string[],
): Promise<HeldMounts[]> {
  return (await mountsNow(db, now, hosts)).flatMap(({ host, digest, heldBy }) =>
    heldBy === null ? [] : [{ host, digest, sessions: heldBy }],
  );
}
