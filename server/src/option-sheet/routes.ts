/** Option sheets over HTTP: suites, and the sheets that are filled for them. */
import { optionSheetEndpoints, type OptionSuiteInput } from '@vatline/contract/option-sheet';
import { allSuiteFaults } from '@vatline/contract/option-suite-file';
import { sheetFaults } from '@vatline/core/option-sheet/suite';
import { change, DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import type { Note } from '../platform/journal.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid, notFound } from '../platform/problem.ts';
import { addSuite, changeSuite, keepSheet, keptSuites, suiteOf } from './store.ts';

export function optionSheetRoutes(door: Door, parts: Parts): void {
  const { db } = parts;

  door.serve(optionSheetEndpoints.list, () => keptSuites(db));

  door.serve(optionSheetEndpoints.create, async ({ body }) => {
    refuseFaulty(body);
    return change(
      parts,
      async () => ({ id: await addSuite(parts, body) }),
      ({ id }) => suiteNote(id, `Option suite ${body.name} was made`),
    );
  });

  door.serve(optionSheetEndpoints.change, async ({ params: { id }, body: { basedOn, ...suite } }) => {
    refuseFaulty(suite);
    return change(
      parts,
      async () => ({ revision: await changeSuite(db, id, suite, basedOn) }),
      ({ revision }) => suiteNote(id, `Option suite ${suite.name}: revision ${revision} was kept`),
    );
  });

  door.serve(optionSheetEndpoints.remove, async ({ params: { id } }) => {
    const { name } = await suiteOf(db, id);
    return change(
      parts,
      async () => {
        await db.deleteFrom('option_sheet').where('suite_id', '=', id).execute();
        const gone = await db.deleteFrom('option_suite').where('id', '=', id).executeTakeFirst();
        if (gone.numDeletedRows === 0n) throw notFound('such suite');
        return DONE;
      },
      () => ({ ...suiteNote(id, `Option suite ${name} and its sheets were deleted`), link: ALL_SHEETS }),
    );
  });

  door.serve(optionSheetEndpoints.keepSheet, async ({ params: { id, name }, body }) => {
    const suite = await suiteOf(db, id);
    const faults = sheetFaults(suite, body.values);
    if (faults.length > 0)
      throw invalid(faults.map(({ path, message }) => ({ path: `values.${path}`, message })));
    return change(
      parts,
      async () => ({ revision: await keepSheet(parts, id, name, body.values, body.basedOn) }),
      () => suiteNote(id, `Option sheet ${name} of ${suite.name} was kept`, name),
    );
  });

  door.serve(optionSheetEndpoints.removeSheet, async ({ params: { id, name } }) => {
    const suite = await suiteOf(db, id);
    return change(
      parts,
      async () => {
        const { numDeletedRows } = await db
          .deleteFrom('option_sheet')
          .where('suite_id', '=', id)
          .where('name', '=', name)
          .executeTakeFirst();
        if (numDeletedRows === 0n) throw notFound(`sheet ${name}`);
        return DONE;
      },
      () => suiteNote(id, `Option sheet ${name} of ${suite.name} was deleted`),
    );
  });
}

const ALL_SHEETS = '/packages/options';

/** `sheet` is the one that was changed; the suite itself when left out. */
function suiteNote(id: string, text: string, sheet?: string): Omit<Note, 'at'> {
  const page = `${ALL_SHEETS}/${id}`;
  const link = sheet === undefined ? page : `${page}/${encodeURIComponent(sheet)}`;
  return { kind: 'packages', subject: `option-suite:${id}`, text, link };
}

function refuseFaulty(suite: OptionSuiteInput): void {
  const faults = allSuiteFaults(suite);
  if (faults.length > 0) throw invalid(faults);
}
