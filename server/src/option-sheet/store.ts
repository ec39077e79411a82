/** Suites and the sheets that are filled for them: rows in the database. */
import type { KeptSuite, OptionSuiteInput } from '@vatline/contract/option-sheet';
import { filledSheet, type FilledSheet } from '@vatline/core/option-sheet/filled-sheet';
import { sheetFaults, type OptionSuite, type SheetValues } from '@vatline/core/option-sheet/suite';
import { fromJson, type Db } from '../platform/database.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import { refuseStale } from '../platform/stale.ts';
import type {} from './tables.ts';

export async function suiteOf(db: Db, id: string): Promise<OptionSuite> {
  const row = await db
    .selectFrom('option_suite')
    .select('suite_json')
    .where('id', '=', id)
    .executeTakeFirst();
  if (!row) throw notFound('such suite');
  return fromJson<OptionSuite>(row.suite_json);
}

export async function keptSuites(db: Db): Promise<KeptSuite[]> {
  const suites = await db.selectFrom('option_suite').selectAll().orderBy('name').execute();
  const sheets = await db.selectFrom('option_sheet').selectAll().orderBy('name').execute();
  return suites.map((row) => {
    const suite = fromJson<OptionSuiteInput>(row.suite_json);
    return {
      id: row.id,
      suite,
      revision: row.revision,
      sheets: sheets
        .filter((sheet) => sheet.suite_id === row.id)
        .map((sheet) => {
          const values = fromJson<KeptSuite['sheets'][number]['values']>(sheet.values_json);
          const faults = sheetFaults(suite as OptionSuite, values).map((fault) => ({ ...fault }));
          return { name: sheet.name, values, changedAt: sheet.changed_ms, revision: sheet.revision, faults };
        }),
    };
  });
}

export async function addSuite(
  { db, estate }: Pick<Parts, 'db' | 'estate'>,
  suite: OptionSuite | OptionSuiteInput,
): Promise<string> {
  const id = newId('suite');
  await db
    .insertInto('option_suite')
    .values({ id, name: suite.name, suite_json: JSON.stringify(suite), created_ms: estate.clock.now() })
    .execute();
  return id;
}

/** Keeps a change of a suite; gives its revision. Throws a conflict when somebody kept another one meanwhile. */
export async function changeSuite(
  db: Db,
  id: string,
  suite: OptionSuiteInput,
  basedOn: number,
): Promise<number> {
  return db.transact(async () => {
    const row = await db
      .selectFrom('option_suite')
      .select('revision')
      .where('id', '=', id)
      .executeTakeFirst();
    if (!row) throw notFound('such suite');
    refuseStale('suite', suite.name, row.revision, basedOn);
    const revision = basedOn + 1;
    await db
      .updateTable('option_suite')
      .set({ name: suite.name, suite_json: JSON.stringify(suite), revision })
      .where('id', '=', id)
      .execute();
    return revision;
  });
}

/** Keeps a sheet, a new one where `basedOn` is 0; the same conflict. */
export async function keepSheet(
  { db, estate }: Pick<Parts, 'db' | 'estate'>,
  suiteId: string,
  name: string,
  values: SheetValues,
  basedOn: number,
): Promise<number> {
  const revision = basedOn + 1;
  const row = {
    suite_id: suiteId,
    name,
    values_json: JSON.stringify(values),
    changed_ms: estate.clock.now(),
    revision,
  };
  await db.transact(async () => {
    const kept = await db
      .selectFrom('option_sheet')
      .select('revision')
      .where('suite_id', '=', suiteId)
      .where('name', '=', name)
      .executeTakeFirst();
    refuseStale('sheet', name, kept?.revision ?? 0, basedOn);
    await db
      .insertInto('option_sheet')
      .values(row)
      .onConflict((c) => c.columns(['suite_id', 'name']).doUpdateSet(row))
      .execute();
  });
  return revision;
}

/** All sheets as recipes refer to them. */
export async function filledSheets(db: Db): Promise<FilledSheet[]> {
  const rows = await db
    .selectFrom('option_sheet')
    .innerJoin('option_suite', 'option_suite.id', 'option_sheet.suite_id')
    .select(['option_sheet.name', 'option_sheet.values_json', 'option_suite.suite_json'])
    .orderBy('option_suite.name')
    .orderBy('option_sheet.name')
    .execute();
  return rows.map((row) =>
    filledSheet(fromJson<OptionSuite>(row.suite_json), row.name, fromJson<SheetValues>(row.values_json)),
  );
}
