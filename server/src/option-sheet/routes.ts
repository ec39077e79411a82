/** Option sheets over HTTP: suites, and the sheets that are filled for them. */
import type { Router } from 'express';
import { optionSheetEndpoints, type KeptSuite, type OptionSuiteInput } from '@vatline/contract/option-sheet';
import { allSuiteFaults } from '@vatline/contract/option-suite-file';
import { sheetFaults, type OptionSuite, type SheetValues } from '@vatline/core/option-sheet/suite';
import { fromJson } from '../platform/database.ts';
import { serve } from '../platform/http.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid, notFound } from '../platform/problem.ts';

export function optionSheetRoutes(router: Router, parts: Parts): void {
  const { db, journal, estate } = parts;

  serve(router, optionSheetEndpoints.list, () => keptSuites(parts));

  serve(router, optionSheetEndpoints.create, async ({ body }) => {
    refuseFaulty(body);
    const id = await addSuite(parts, body);
    journal.tell('packages');
    return { id };
  });

  serve(router, optionSheetEndpoints.change, async ({ params, body }) => {
    await suiteOf(parts, params.id);
    refuseFaulty(body);
    await db
      .updateTable('option_suite')
      .set({ name: body.name, suite_json: JSON.stringify(body) })
      .where('id', '=', params.id)
      .execute();
    journal.tell('packages');
    return { done: true as const };
  });

  serve(router, optionSheetEndpoints.remove, async ({ params }) => {
    await suiteOf(parts, params.id);
    await db.deleteFrom('option_sheet').where('suite_id', '=', params.id).execute();
    await db.deleteFrom('option_suite').where('id', '=', params.id).execute();
    journal.tell('packages');
    return { done: true as const };
  });

  serve(router, optionSheetEndpoints.keepSheet, async ({ params, body }) => {
    const suite = await suiteOf(parts, params.id);
    const faults = sheetFaults(suite, body.values);
    if (faults.length > 0)
      throw invalid(faults.map(({ path, message }) => ({ path: `values.${path}`, message })));
    await keepSheet(parts, params.id, params.name, body.values);
    await journal.note({
      at: estate.clock.now(),
      kind: 'packages',
      subject: `option-suite:${params.id}`,
      text: `Option sheet ${params.name} of ${suite.name} was kept`,
      link: `/packages/options/${params.id}/${encodeURIComponent(params.name)}`,
    });
    journal.tell('packages');
    return { done: true as const };
  });

  serve(router, optionSheetEndpoints.removeSheet, async ({ params }) => {
    const { numDeletedRows } = await db
      .deleteFrom('option_sheet')
      .where('suite_id', '=', params.id)
      .where('name', '=', params.name)
      .executeTakeFirst();
    if (numDeletedRows === 0n) throw notFound(`sheet ${params.name}`);
    journal.tell('packages');
    return { done: true as const };
  });
}

function refuseFaulty(suite: OptionSuiteInput): void {
  const faults = allSuiteFaults(suite);
  if (faults.length > 0) throw invalid(faults);
}

async function suiteOf({ db }: Parts, id: string): Promise<OptionSuite> {
  const row = await db
    .selectFrom('option_suite')
    .select('suite_json')
    .where('id', '=', id)
    .executeTakeFirst();
  if (!row) throw notFound('such suite');
  return fromJson<OptionSuite>(row.suite_json);
}

async function keptSuites({ db }: Parts): Promise<KeptSuite[]> {
  const suites = await db.selectFrom('option_suite').selectAll().orderBy('name').execute();
  const sheets = await db.selectFrom('option_sheet').selectAll().orderBy('name').execute();
  return suites.map((row) => {
    const suite = fromJson<OptionSuiteInput>(row.suite_json);
    return {
      id: row.id,
      suite,
      sheets: sheets
        .filter((sheet) => sheet.suite_id === row.id)
        .map((sheet) => {
          const values = fromJson<KeptSuite['sheets'][number]['values']>(sheet.values_json);
          const faults = sheetFaults(suite as OptionSuite, values).map((fault) => ({ ...fault }));
          return { name: sheet.name, values, changedAt: sheet.changed_ms, faults };
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

export async function keepSheet(
  { db, estate }: Pick<Parts, 'db' | 'estate'>,
  suiteId: string,
  name: string,
  values: SheetValues,
): Promise<void> {
  const row = {
    suite_id: suiteId,
    name,
    values_json: JSON.stringify(values),
    changed_ms: estate.clock.now(),
  };
  await db
    .insertInto('option_sheet')
    .values(row)
    .onConflict((c) => c.columns(['suite_id', 'name']).doUpdateSet(row))
    .execute();
}
