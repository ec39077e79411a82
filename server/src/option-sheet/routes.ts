/** Option sheets over HTTP: suites, and the sheets that are filled for them. */
import { optionSheetEndpoints, type OptionSuiteInput } from '@vatline/contract/option-sheet';
import { allSuiteFaults } from '@vatline/contract/option-suite-file';
import { sheetFaults } from '@vatline/core/option-sheet/suite';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid, notFound } from '../platform/problem.ts';
import { addSuite, changeSuite, keepSheet, keptSuites, suiteOf } from './store.ts';

export function optionSheetRoutes(door: Door, parts: Parts): void {
  const { db, journal, estate } = parts;

  door.serve(optionSheetEndpoints.list, () => keptSuites(db));

  door.serve(optionSheetEndpoints.create, async ({ body }) => {
    refuseFaulty(body);
    const id = await addSuite(parts, body);
    return { id };
  });

  door.serve(optionSheetEndpoints.change, async ({ params, body }) => {
    const { basedOn, ...suite } = body;
    refuseFaulty(suite);
    const revision = await changeSuite(db, params.id, suite, basedOn);
    return { revision };
  });

  door.serve(optionSheetEndpoints.remove, async ({ params }) => {
    await suiteOf(db, params.id);
    await db.transaction().execute(async (tx) => {
      await tx.deleteFrom('option_sheet').where('suite_id', '=', params.id).execute();
      await tx.deleteFrom('option_suite').where('id', '=', params.id).execute();
    });
    return { done: true as const };
  });

  door.serve(optionSheetEndpoints.keepSheet, async ({ params, body }) => {
    const suite = await suiteOf(db, params.id);
    const faults = sheetFaults(suite, body.values);
    if (faults.length > 0)
      throw invalid(faults.map(({ path, message }) => ({ path: `values.${path}`, message })));
    const revision = await keepSheet(parts, params.id, params.name, body.values, body.basedOn);
    await journal.note({
      at: estate.clock.now(),
      kind: 'packages',
      subject: `option-suite:${params.id}`,
      text: `Option sheet ${params.name} of ${suite.name} was kept`,
      link: `/packages/options/${params.id}/${encodeURIComponent(params.name)}`,
    });
    return { revision };
  });

  door.serve(optionSheetEndpoints.removeSheet, async ({ params }) => {
    const { numDeletedRows } = await db
      .deleteFrom('option_sheet')
      .where('suite_id', '=', params.id)
      .where('name', '=', params.name)
      .executeTakeFirst();
    if (numDeletedRows === 0n) throw notFound(`sheet ${params.name}`);
    return { done: true as const };
  });
}

function refuseFaulty(suite: OptionSuiteInput): void {
  const faults = allSuiteFaults(suite);
  if (faults.length > 0) throw invalid(faults);
}
