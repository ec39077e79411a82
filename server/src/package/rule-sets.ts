/** Sets of noise rules in the database, every revision kept. */
import type { RuleSet } from '@vatline/contract/noise-rules';
import { plain } from '@vatline/contract/rule-file';
import type { NoiseRule } from '@vatline/core/package/noise';
import { fromJson, type Db } from '../platform/database.ts';
import { notFound } from '../platform/problem.ts';
import { refuseStale } from '../platform/stale.ts';

/** What new captures are judged by, where there is such a set. */
export const USUAL_RULES = 'House rules';

/** The rules of one revision. Throws when there is none. */
export async function ruleRevision(db: Db, name: string, revision: number): Promise<NoiseRule[]> {
  const row = await db
    .selectFrom('rule_set_revision')
    .select('rules_json')
    .where('name', '=', name)
    .where('revision', '=', revision)
    .executeTakeFirst();
  if (!row) throw notFound(`revision ${revision} of a rule set ${name}`);
  return fromJson<NoiseRule[]>(row.rules_json);
}

/** Number of the newest revision, 0 for a set that is not there. */
export async function newestRuleRevision(db: Db, name: string): Promise<number> {
  const row = await db
    .selectFrom('rule_set_revision')
    .select(({ fn }) => fn.max('revision').as('revision'))
    .where('name', '=', name)
    .executeTakeFirst();
  return row?.revision ?? 0;
}

/** Keeps the next revision. Throws a conflict when it is not the next one after what the change is based on. */
export async function addRuleRevision(
  db: Db,
  set: { name: string; rules: readonly NoiseRule[]; note: string; at: number },
  basedOn?: number,
): Promise<number> {
  return db.transact(async () => {
    const newest = await newestRuleRevision(db, set.name);
    refuseStale('rule set', set.name, newest, basedOn ?? newest);
    const revision = newest + 1;
    await db
      .insertInto('rule_set_revision')
      .values({
        name: set.name,
        revision,
        rules_json: JSON.stringify(set.rules.map(plain)),
        note: set.note,
        created_ms: set.at,
      })
      .execute();
    return revision;
  });
}

export async function ruleSets(db: Db): Promise<RuleSet[]> {
  const rows = await db
    .selectFrom('rule_set_revision')
    .selectAll()
    .orderBy('name')
    .orderBy('revision', 'desc')
    .execute();
  const judged = await db
    .selectFrom('capture')
    .select(({ fn }) => ['rules_name', 'rules_revision', fn.countAll<number>().as('captures')])
    .groupBy(['rules_name', 'rules_revision'])
    .execute();
  const captures = (name: string, revision: number) =>
    judged.find((row) => row.rules_name === name && row.rules_revision === revision)?.captures ?? 0;
  return [...new Set(rows.map((row) => row.name))].map((name) => ({
    name,
    revisions: rows
      .filter((row) => row.name === name)
      .map((row) => ({
        revision: row.revision,
        rules: fromJson<NoiseRule[]>(row.rules_json) as RuleSet['revisions'][number]['rules'],
        note: row.note,
        createdAt: row.created_ms,
        captures: captures(name, row.revision),
      })),
  }));
}
