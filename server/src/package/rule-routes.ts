/** Noise rules over HTTP: their revisions, trying them on every capture, and judging a capture by others. */
import { statSync } from 'node:fs';
import { captureEndpoints } from '@vatline/contract/capture';
import { noiseRuleEndpoints, type RuleTrial } from '@vatline/contract/noise-rules';
import { plain, ruleFaults } from '@vatline/contract/rule-file';
import type { NoiseRule } from '@vatline/core/package/noise';
import { fromJson } from '../platform/database.ts';
import { change, DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import type { Note } from '../platform/journal.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid, notFound } from '../platform/problem.ts';
import { captureFiles } from './capture-files.ts';
import { judgingOf } from './judging.ts';
import { addRuleRevision, ruleRevision, ruleSets } from './rule-sets.ts';
import type { PackageStore } from './store.ts';
import { captureWork } from './work.ts';

/** A rule that needs longer than this, and this for each megabyte of a capture, is one that never ends. */
const PATIENCE_MS = 3_000;
const PATIENCE_MS_MEGABYTE = 100;

export function ruleRoutes(door: Door, parts: Parts, store: PackageStore): void {
  const { db, estate } = parts;

  door.serve(noiseRuleEndpoints.list, () => ruleSets(db));

  door.serve(noiseRuleEndpoints.try, ({ body }) => tryOnAll(parts, store, checked(body.rules)));

  door.serve(noiseRuleEndpoints.keep, async ({ params: { name }, body }) => {
    const rules = checked(body.rules);
    const at = estate.clock.now();
    return change(
      parts,
      async () => ({
        revision: await addRuleRevision(db, { name, rules, note: body.note, at }, body.basedOn),
      }),
      ({ revision }) => rulesNote(`Noise rules ${name}: revision ${revision} was kept`),
    );
  });

  door.serve(noiseRuleEndpoints.remove, async ({ params: { name } }) => {
    return change(
      parts,
      async () => {
        const set = (await ruleSets(db)).find((row) => row.name === name);
        if (!set) throw notFound(`rule set ${name}`);
        const captures = set.revisions.reduce((sum, row) => sum + row.captures, 0);
        if (captures > 0)
          throw conflict(`${captures} captures were judged by it; judge them by others first`);
        await db.deleteFrom('rule_set_revision').where('name', '=', name).execute();
        return DONE;
      },
      () => rulesNote(`Noise rules ${name} were deleted`),
    );
  });

  door.serve(captureEndpoints.judge, async ({ params, body: { rules } }) => {
    const capture = await store.captures.get(params.id);
    if (capture.counts_json === null) throw conflict('This capture has not been compared yet');
    if (rules) await ruleRevision(db, rules.name, rules.revision);
    const chosen = { rules_name: rules?.name ?? '', rules_revision: rules?.revision ?? 0 };
    const judging = await judgingOf(parts, store, { ...capture, ...chosen });
    const counts = await inTime([judging.folder], (signal) =>
      captureWork(parts, 'judgeCapture', judging, { signal }),
    );
    // Of what was kept and dropped anew another package can be made.
    return change(
      parts,
      async () => {
        await store.captures.update(capture.id, {
          ...chosen,
          counts_json: JSON.stringify(counts),
          state: 'ready',
        });
        return DONE;
      },
      () => ({
        kind: 'packages',
        subject: `capture:${capture.id}`,
        text: `${capture.package_name} was judged by ${rules ? `${rules.name}, revision ${rules.revision}` : 'the rules that ship with it'}`,
        link: `/packages/capture/${capture.id}`,
      }),
    );
  });
}

function rulesNote(text: string): Omit<Note, 'at'> {
  return { kind: 'packages', subject: 'noise-rules', text, link: '/packages/rules' };
}

function checked(rules: Parameters<typeof plain>[0][]): NoiseRule[] {
  const own = rules.map(plain);
  const faults = ruleFaults(own);
  if (faults.length > 0) throw invalid(faults.map((fault) => ({ ...fault, path: `rules.${fault.path}` })));
  return own;
}

async function tryOnAll(parts: Parts, store: PackageStore, rules: NoiseRule[]): Promise<RuleTrial[]> {
  const captures = await parts.db.selectFrom('capture').selectAll().orderBy('created_ms', 'desc').execute();
  const packaged = await parts.db
    .selectFrom('package_version')
    .select('capture_id')
    .where('capture_id', 'is not', null)
    .execute();
  const task = { rules, folders: captures.map((row) => store.captures.folder(row.id)) };
  const tried = await inTime(task.folders, (signal) => captureWork(parts, 'tryRules', task, { signal }));
  return captures.flatMap((row, i): RuleTrial[] => {
    const one = tried[i];
    if (!one) return [];
    const { name, version } = fromJson<{ name: string; version: string }>(row.proposal_json);
    return [
      {
        captureId: row.id,
        name,
        version,
        isPackaged: packaged.some((own) => own.capture_id === row.id),
        dropped: one.dropped,
        kept: one.kept,
        examples: [...one.examples],
      },
    ];
  });
}

/** Ends work on these captures that takes far longer than their size asks for. */
async function inTime<T>(folders: readonly string[], work: (signal: AbortSignal) => Promise<T>): Promise<T> {
  const megabytes = folders.reduce((sum, folder) => sum + comparisonBytes(folder) / 1e6, 0);
  const patience = Math.round(PATIENCE_MS + PATIENCE_MS_MEGABYTE * megabytes);
  const signal = AbortSignal.timeout(patience);
  try {
    return await work(signal);
  } catch (error) {
    if (!signal.aborted) throw error;
    const seconds = Math.ceil(patience / 1000);
    throw invalid([{ path: 'rules', message: `take more than ${seconds} seconds; try fewer of them` }]);
  }
}

function comparisonBytes(folder: string): number {
  return statSync(captureFiles(folder).comparison, { throwIfNoEntry: false })?.size ?? 0;
}
