import { lineDetail, lineSummaries } from './present.ts';
import { cutScheduleEndpoints } from '@vatline/contract/cut-schedule';
import { imageEndpoints } from '@vatline/contract/image';
import { firstToRun } from '@vatline/core/image/checkpoint-plan';
import { checkIds, fixedChecks } from '@vatline/core/image/checks/check-line';
import { builtRecipeFaults } from '@vatline/core/image/fragments';
import { recipeFaults } from '@vatline/core/image/recipe';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { refuseStale } from '../platform/stale.ts';
import { conflict, invalid, notFound } from '../platform/problem.ts';
import { nextBuild } from './build-job.ts';
import type { CutSchedules } from './cut-schedules.ts';
import type { DeleteInput } from './delete-versions.ts';
import { cutInput, refuseUnlessReady } from './cut-job.ts';
import { hostsOf } from './line-facts.ts';
import type { MachineInput } from './jobs.ts';
import type { ImageStore } from './store.ts';

export function imageRoutes(door: Door, parts: Parts, store: ImageStore, schedules: CutSchedules): void {
  const { jobs, journal, estate } = parts;
  const subject = (id: string) => `line:${id}`;

  door.serve(imageEndpoints.lines, () => lineSummaries(parts, store));
  door.serve(imageEndpoints.line, ({ params }) => lineDetail(parts, store, params.id));

  door.serve(imageEndpoints.createLine, async ({ body }) => {
    if ((await store.lines.names()).includes(body.name))
      throw conflict(`There is an image line named ${body.name} already`, 'name');
    const { fromVersion, ...line } = body;
    const fork = fromVersion === undefined ? {} : await forkOf(store, fromVersion);
    const id = await store.lines.create({ ...line, ...fork, at: estate.clock.now() });
    return { id };
  });

  door.serve(imageEndpoints.saveRecipe, async ({ params, body }) => {
    const line = await store.lines.get(params.id);
    refuseStale('recipe', line.name, line.recipe_revision, body.basedOn);
    const faults = builtRecipeFaults(body.steps, await store.recipes.library());
    if (faults.length > 0) throw invalid(faults);
    const hardware = body.hardware ?? (await store.recipes.get(line.id, line.recipe_revision)).hardware;
    const revision = await store.recipes.add(line.id, body.steps, hardware, estate.clock.now(), body.basedOn);
    return { revision };
  });

  door.serve(imageEndpoints.hosts, async ({ params }) =>
    hostsOf(parts, (await store.lines.get(params.id)).id),
  );

  door.serve(imageEndpoints.revisions, async ({ params }) =>
    store.recipes.revisions((await store.lines.get(params.id)).id),
  );

  door.serve(imageEndpoints.setCheckpointBudget, async ({ params, body }) => {
    await store.checkpoints.setBudget((await store.lines.get(params.id)).id, body.bytes);
    return { done: true as const };
  });

  door.serve(imageEndpoints.build, async ({ params }) => {
    const line = await store.lines.get(params.id);
    const input = await nextBuild(parts, store, line);
    const faults = recipeFaults(input.steps);
    if (faults.length > 0) throw invalid(faults);
    const next = firstToRun(input.steps, input.waterline);
    if (next < 0) {
      const title = `Put ${line.name} back to its last checkpoint`;
      return {
        jobId: await jobs.start({ kind: 'build', title, subject: subject(line.id), input }),
      };
    }
    const title = input.waterline === 0 ? `Build ${line.name}` : `Build ${line.name} from step ${next + 1}`;
    const jobId = await jobs.start({ kind: 'build', title, subject: subject(line.id), input });
    return { jobId };
  });

  door.serve(imageEndpoints.machine, async ({ params, body }) => {
    const line = await store.lines.get(params.id);
    if (!line.machine_id) throw conflict('There is no build machine yet; build first');
    const input: MachineInput = { lineId: line.id, action: body.action };
    const verb = { run: 'Run', restart: 'Restart', 'shut down': 'Shut down' }[body.action];
    const jobId = await jobs.start({
      kind: 'machine',
      title: `${verb} ${line.machine_name}`,
      subject: subject(line.id),
      input,
    });
    return { jobId };
  });

  door.serve(imageEndpoints.switchCheckOff, async ({ params, body }) => {
    const line = await store.lines.get(params.id);
    if (!checkIds.includes(params.check)) throw notFound('such check');
    if (fixedChecks.includes(params.check))
      throw conflict('This check guards the copy itself and cannot be switched off');
    await store.lines.switchCheckOff(line.id, params.check, body.reason, estate.clock.now());
    await journal.note({
      at: estate.clock.now(),
      kind: 'image',
      subject: subject(line.id),
      text: `${line.name}: the check "${params.check}" is switched off: ${body.reason}`,
      link: `/images/${line.id}`,
    });
    return { done: true as const };
  });

  door.serve(imageEndpoints.switchCheckOn, async ({ params }) => {
    await store.lines.switchCheckOn((await store.lines.get(params.id)).id, params.check);
    return { done: true as const };
  });

  door.serve(imageEndpoints.cut, async ({ params, body }) => {
    const line = await store.lines.get(params.id);
    await refuseUnlessReady(parts, store, line);
    const jobId = await jobs.start({
      kind: 'cut',
      title: `Cut a version of ${line.name}`,
      subject: subject(line.id),
      input: cutInput(line, body.note),
    });
    return { jobId };
  });

  door.serve(imageEndpoints.setState, async ({ params, body }) => {
    if (body.state === 'approved' && body.by !== 'approver')
      throw invalid([{ path: 'by', message: `an approver approves; you act as ${body.by}` }]);
    const version = await store.versions.setState(
      params.id,
      body.state,
      body.by,
      body.note,
      estate.clock.now(),
    );
    const line = await store.lines.get(version.lineId);
    await journal.note({
      at: estate.clock.now(),
      kind: 'image',
      subject: subject(line.id),
      text: `${line.name} ${version.number} is ${body.state}, by the ${body.by}`,
      link: `/images/${line.id}/versions`,
    });
    return version;
  });

  door.serve(imageEndpoints.deleteVersions, async ({ params, body }) => {
    const line = await store.lines.get(params.id);
    const own = (await store.versions.all()).filter((version) => version.lineId === line.id);
    const versions = body.versionIds.map((id) => own.find((version) => version.id === id));
    const faults = versions.flatMap((version, i) => {
      const path = `versionIds.${i}`;
      if (!version) return [{ path, message: 'there is no such version of this line' }];
      const { number, neededBy } = version;
      return neededBy.length > 0
        ? [{ path, message: `version ${number} is needed: ${neededBy.join(', ')}` }]
        : [];
    });
    if (faults.length > 0) throw invalid(faults);
    const input: DeleteInput = {
      versions: versions.flatMap((version) => (version ? [{ id: version.id, number: version.number }] : [])),
    };
    const jobId = await jobs.start({
      kind: 'delete versions',
      title: `Delete ${input.versions.length} ${input.versions.length === 1 ? 'version' : 'versions'} of ${line.name}`,
      subject: subject(line.id),
      input,
    });
    return { jobId };
  });

  door.serve(imageEndpoints.setRetention, async ({ params, body }) => {
    await store.lines.setRetention(params.id, body.keep);
    return { done: true as const };
  });

  door.serve(cutScheduleEndpoints.get, ({ params }) => schedules.get(params.id));
  door.serve(cutScheduleEndpoints.keep, ({ params, body: { basedOn, ...schedule } }) =>
    schedules.keep(params.id, schedule, basedOn),
  );
  door.serve(cutScheduleEndpoints.drop, async ({ params }) => {
    await schedules.drop(params.id);
    return { done: true as const };
  });
}

/** What a line that is started from a version begins with. */
async function forkOf(store: ImageStore, versionId: string) {
  const version = await store.versions.get(versionId);
  if (version.recipe_revision === 0)
    throw invalid([
      {
        path: 'fromVersion',
        message: 'was made elsewhere, so it has no recipe that a line could begin with',
      },
    ]);
  const { steps, hardware } = await store.recipes.get(version.line_id, version.recipe_revision);
  return { steps, hardware, forkedFrom: versionId };
}
