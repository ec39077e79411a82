/** The build machine of a line over HTTP: building, running, its checks, and the cut of a version. */
import { imageEndpoints } from '@vatline/contract/image';
import { firstToRun } from '@vatline/core/image/checkpoint-plan';
import { checkIds, fixedChecks } from '@vatline/core/image/checks/check-line';
import { recipeFaults } from '@vatline/core/image/recipe';
import { change, DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid, notFound } from '../platform/problem.ts';
import { nextBuild } from './build-job.ts';
import { cutInput, refuseUnlessReady } from './cut-job.ts';
import type { MachineInput } from './jobs.ts';
import { lineNote } from './line-note.ts';
import type { ImageStore } from './store.ts';

export function machineRoutes(door: Door, parts: Parts, store: ImageStore): void {
  working(door, parts, store);
  checking(door, parts, store);
}

function working(door: Door, parts: Parts, store: ImageStore): void {
  const start = async (lineId: string, kind: string, title: string, input: unknown) => ({
    jobId: await parts.jobs.start({ kind, title, subject: `line:${lineId}`, input }),
  });

  door.serve(imageEndpoints.build, async ({ params }) => {
    const line = await store.lines.get(params.id);
    const input = await nextBuild(parts, store, line);
    const faults = recipeFaults(input.steps);
    if (faults.length > 0) throw invalid(faults);
    const next = firstToRun(input.steps, input.waterline);
    if (next < 0) return start(line.id, 'build', `Put ${line.name} back to its last checkpoint`, input);
    const from = input.waterline === 0 ? '' : ` from step ${next + 1}`;
    return start(line.id, 'build', `Build ${line.name}${from}`, input);
  });

  door.serve(imageEndpoints.machine, async ({ params, body }) => {
    const line = await store.lines.get(params.id);
    if (!line.machine_id) throw conflict('There is no build machine yet; build first');
    const input: MachineInput = { lineId: line.id, action: body.action };
    const verb = { run: 'Run', restart: 'Restart', 'shut down': 'Shut down' }[body.action];
    return start(line.id, 'machine', `${verb} ${line.machine_name}`, input);
  });

  door.serve(imageEndpoints.cut, async ({ params, body }) => {
    const line = await store.lines.get(params.id);
    await refuseUnlessReady(parts, store, line);
    return start(line.id, 'cut', `Cut a version of ${line.name}`, cutInput(line, body.note));
  });
}

function checking(door: Door, parts: Parts, store: ImageStore): void {
  const { estate } = parts;

  door.serve(imageEndpoints.switchCheckOff, async ({ params, body }) => {
    const line = await store.lines.get(params.id);
    if (!checkIds.includes(params.check)) throw notFound('such check');
    if (fixedChecks.includes(params.check))
      throw conflict('This check guards the copy itself and cannot be switched off');
    return change(
      parts,
      async () => {
        await store.lines.switchCheckOff(line.id, params.check, body.reason, estate.clock.now());
        return DONE;
      },
      () => lineNote(line, `: the check "${params.check}" is switched off: ${body.reason}`),
    );
  });

  door.serve(imageEndpoints.switchCheckOn, async ({ params }) => {
    const line = await store.lines.get(params.id);
    return change(
      parts,
      async () => {
        await store.lines.switchCheckOn(line.id, params.check);
        return DONE;
      },
      () => lineNote(line, `: the check "${params.check}" counts again`),
    );
  });
}
