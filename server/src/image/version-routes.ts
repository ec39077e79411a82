/** The versions of a line over HTTP: their states, which are kept, and the schedule that cuts them. */
import { cutScheduleEndpoints } from '@vatline/contract/cut-schedule';
import { imageEndpoints } from '@vatline/contract/image';
import { setBy } from '@vatline/core/image/version-state';
import { change, DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid } from '../platform/problem.ts';
import type { CutSchedules } from './cut-schedules.ts';
import type { DeleteInput } from './delete-versions.ts';
import { lineNote } from './line-note.ts';
import type { ImageStore } from './store.ts';

export function versionRoutes(door: Door, parts: Parts, store: ImageStore, schedules: CutSchedules): void {
  door.serve(imageEndpoints.setState, async ({ params, body: { state, note }, caller: { role } }) => {
    const allowed = setBy(role, state);
    if (!allowed.ok) throw invalid(allowed.error);
    const line = await store.lines.get((await store.versions.get(params.id)).line_id);
    return change(
      parts,
      () => store.versions.setState(params.id, state, role, note, parts.estate.clock.now()),
      ({ number }) => lineNote(line, ` ${number} is ${state}, by the ${role}`, 'versions'),
    );
  });

  door.serve(imageEndpoints.deleteVersions, async ({ params, body }) => {
    const line = await store.lines.get(params.id);
    const input: DeleteInput = { versions: await deletable(store, line.id, body.versionIds) };
    const many = `${input.versions.length} ${input.versions.length === 1 ? 'version' : 'versions'}`;
    const jobId = await parts.jobs.start({
      kind: 'delete versions',
      title: `Delete ${many} of ${line.name}`,
      subject: `line:${line.id}`,
      input,
    });
    return { jobId };
  });

  door.serve(imageEndpoints.setRetention, async ({ params, body: { keep } }) => {
    const line = await store.lines.get(params.id);
    return change(
      parts,
      async () => {
        await store.lines.setRetention(line.id, keep);
        return DONE;
      },
      () =>
        lineNote(
          line,
          keep === null ? ': every version is kept' : `: the newest ${keep} are kept`,
          'versions',
        ),
    );
  });

  door.serve(cutScheduleEndpoints.get, ({ params }) => schedules.get(params.id));
  door.serve(cutScheduleEndpoints.keep, ({ params, body: { basedOn, ...schedule } }) =>
    schedules.keep(params.id, schedule, basedOn),
  );
  door.serve(cutScheduleEndpoints.drop, async ({ params }) => {
    await schedules.drop(params.id);
    return DONE;
  });
}

/** Versions of a line that nothing needs. Throws a refusal with a fault at each of the others. */
async function deletable(store: ImageStore, lineId: string, ids: readonly string[]) {
  const own = (await store.versions.all()).filter((version) => version.lineId === lineId);
  const versions = ids.map((id) => own.find((version) => version.id === id));
  const faults = versions.flatMap((version, i) => {
    const path = `versionIds.${i}`;
    if (!version) return [{ path, message: 'there is no such version of this line' }];
    const { number, neededBy } = version;
    return neededBy.length > 0
      ? [{ path, message: `version ${number} is needed: ${neededBy.join(', ')}` }]
      : [];
  });
  if (faults.length > 0) throw invalid(faults);
  return versions.flatMap((version) => (version ? [{ id: version.id, number: version.number }] : []));
}
