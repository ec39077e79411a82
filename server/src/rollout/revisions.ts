/** Changes of rollouts under way: each is kept with who, when and why. */
import type { RolloutRevision } from '@vatline/contract/rollout';
import { whoActs } from '../platform/acting.ts';
import type { Parts } from '../platform/parts.ts';
import type { Plans } from './plans.ts';
import type { RevisionRow } from './tables.ts';

/** Writes a revision down, in a transaction of the caller's; its number is the next one. */
export async function addRevision(
  { db }: Pick<Parts, 'db'>,
  revision: Omit<RevisionRow, 'number' | 'by_role'>,
): Promise<void> {
  const number = (await lastRevision({ db }, revision.rollout_id)) + 1;
  const by_role = number === 1 ? null : (whoActs() ?? null);
  await db
    .insertInto('rollout_revision')
    .values({ ...revision, number, by_role })
    .execute();
}

/** A change as the journal has it as well, in a transaction of the caller's. */
export async function noteRevision(
  { db, journal }: Pick<Parts, 'db' | 'journal'>,
  pool: string,
  revision: Omit<RevisionRow, 'number' | 'by_role'>,
): Promise<void> {
  await addRevision({ db }, revision);
  const { rollout_id, at_ms, says, why } = revision;
  await journal.note({
    at: at_ms,
    kind: 'rollout',
    subject: `rollout:${rollout_id}`,
    text: `${pool}: ${says}${why === '' ? '' : ` (${why})`}`,
    link: `/rollouts/${rollout_id}`,
  });
}

/** 0 where there is none. */
export async function lastRevision({ db }: Pick<Parts, 'db'>, rolloutId: string): Promise<number> {
  return (await lastRevisions({ db }, [rolloutId])).get(rolloutId) ?? 0;
}

export async function lastRevisions(
  { db }: Pick<Parts, 'db'>,
  rolloutIds: readonly string[],
): Promise<ReadonlyMap<string, number>> {
  const rows = await db
    .selectFrom('rollout_revision')
    .select(({ fn }) => ['rollout_id', fn.max('number').as('number')])
    .where('rollout_id', 'in', rolloutIds)
    .groupBy('rollout_id')
    .execute();
  return new Map(rows.map(({ rollout_id, number }) => [rollout_id, number]));
}

/** Newest first. */
export async function revisionsOf(
  { db }: Parts,
  plans: Plans,
  rolloutId: string,
): Promise<RolloutRevision[]> {
  const rows = await db
    .selectFrom('rollout_revision')
    .selectAll()
    .where('rollout_id', '=', rolloutId)
    .orderBy('number', 'desc')
    .execute();
  const known = await plans.some(rows.map((row) => row.plan_id));
  return rows.flatMap(({ number, at_ms, by_role, says, why, plan_id, expected_ms }) => {
    const plan = known.get(plan_id);
    return plan ? [{ number, at: at_ms, by: by_role, says, why, plan, expectedAt: expected_ms }] : [];
  });
}
