/** How long it took until hosts were ready, each time: what later ones are expected to take. */
import { makingTime, usualStarting } from '@vatline/core/pool/making-time';
import { quantile } from '@vatline/core/quantile';
import type { LeadKind, LeadTimes } from '@vatline/core/pool/readiness';
import { MINUTE, type Instant } from '@vatline/core/time/instant';
import type { Db } from '../platform/database.ts';
import type { Parts } from '../platform/parts.ts';
import type { PoolRow } from './tables.ts';

/** The newest so many of a kind say how long it takes; fewer than `ENOUGH` say nothing yet. */
const REMEMBERED = 50;
const ENOUGH = 5;

export async function noteLeadTime(
  { db, estate }: Pick<Parts, 'db' | 'estate'>,
  poolId: string,
  kind: LeadKind,
  since: Instant,
): Promise<void> {
  const at = estate.clock.now();
  await db
    .insertInto('lead_time')
    .values({ pool_id: poolId, kind, at_ms: at, minutes: (at - since) / MINUTE })
    .execute();
}

export interface KnownLead {
  readonly kind: LeadKind;
  readonly p50Minutes: number;
  readonly p90Minutes: number;
  /** How many it is measured from; 0 where it is assumed. */
  readonly measured: number;
}

/** Each way to get a host ready, measured on this pool, or assumed as long as too few were. */
export async function knownLeads(db: Db, pool: PoolRow): Promise<Record<LeadKind, KnownLead>> {
  const of = async (kind: LeadKind, assumed: readonly [number, number]): Promise<KnownLead> => {
    const rows = await db
      .selectFrom('lead_time')
      .select('minutes')
      .where('pool_id', '=', pool.id)
      .where('kind', '=', kind)
      .orderBy('at_ms', 'desc')
      .limit(REMEMBERED)
      .execute();
    const minutes = rows.map((row) => row.minutes).sort((a, b) => a - b);
    if (minutes.length < ENOUGH) {
      const [p50Minutes, p90Minutes] = assumed;
      return { kind, p50Minutes, p90Minutes, measured: 0 };
    }
    return {
      kind,
      p50Minutes: quantile(minutes, 0.5) ?? 0,
      p90Minutes: quantile(minutes, 0.9) ?? 0,
      measured: minutes.length,
    };
  };
  const made = makingTime(pool.clone, 1, 1);
  return {
    start: await of('start', usualStarting.startMinutes),
    resume: await of('resume', usualStarting.resumeMinutes),
    make: await of('make', [made.p50Minutes, made.p90Minutes]),
  };
}

export function leadsIn(known: Record<LeadKind, KnownLead>): LeadTimes {
  return {
    start: known.start.p90Minutes,
    resume: known.resume.p90Minutes,
    make: known.make.p90Minutes,
  };
}
