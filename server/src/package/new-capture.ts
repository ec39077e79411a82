/** Begins captures on the packaging machine. */
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid } from '../platform/problem.ts';
import type { CaptureInput } from './capture-jobs.ts';
import type { CaptureRequest } from './captures.ts';
import type { PackageStore } from './store.ts';

/** Adds the row of a capture, and gives what its job needs. Refuses installers that are not there. */
export async function newCapture(
  { estate }: Parts,
  store: PackageStore,
  body: CaptureRequest,
): Promise<CaptureInput> {
  const known = await estate.packaging.installers();
  const chosen = body.installers.map((id) => known.find((row) => row.id === id));
  const faults = body.installers.flatMap((id, i) =>
    chosen[i] ? [] : [{ path: `installers.${i}`, message: `The packaging machine has no installer "${id}"` }],
  );
  const installers = chosen.flatMap((row) => (row ? [row] : []));
  // The last is what the package is of; those before it are what it needs.
  const subject = installers.at(-1);
  if (faults.length > 0 || !subject) throw invalid(faults);
  const captureId = newId('capture');
  const { name, publisher, version, entryPoints } = subject;
  await store.captures.add({
    id: captureId,
    package_name: name,
    source: 'practice',
    request_json: JSON.stringify(body),
    state: 'capturing',
    proposal_json: JSON.stringify({ name, publisher, version, entryPoints }),
    created_ms: estate.clock.now(),
  });
  return {
    captureId,
    installers: installers.map((row) => ({ id: row.id, name: `${row.name} ${row.version}` })),
    quiet: body.quiet,
    restarts: body.restarts,
  };
}
