import type { Router } from 'express';
import { packageEndpoints } from '@vatline/contract/package';
import { bytesOf, findingsOf, keptEntries } from '@vatline/core/package/findings';
import { serve } from '../platform/http.ts';
import { clashesOf } from './clashes.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid } from '../platform/problem.ts';
import { pathsToPack, type CaptureInput, type PackInput } from './jobs.ts';
import type { PackageStore } from './store.ts';
import { receiveCapture } from './upload.ts';

export function packageRoutes(router: Router, parts: Parts, store: PackageStore): void {
  const { jobs, journal, estate } = parts;

  serve(router, packageEndpoints.list, () => store.summaries());
  serve(router, packageEndpoints.installers, async () =>
    (await estate.packaging.installers()).map(({ id, name, publisher, version, files }) => ({
      id,
      name,
      publisher,
      version,
      files,
    })),
  );

  serve(router, packageEndpoints.capture, async ({ body }) => {
    const installer = (await estate.packaging.installers()).find((row) => row.id === body.installer);
    if (!installer)
      throw invalid([
        { path: 'installer', message: `The packaging machine has no installer "${body.installer}"` },
      ]);
    const captureId = newId('capture');
    const { name, publisher, version, entryPoints } = installer;
    const proposal_json = JSON.stringify({ name, publisher, version, entryPoints });
    await store.addCapture({
      id: captureId,
      package_name: name,
      source: 'practice',
      installer: installer.id,
      state: 'capturing',
      proposal_json,
      created_ms: estate.clock.now(),
    });
    const input: CaptureInput = { captureId, installer: installer.id, name: `${name} ${version}` };
    const jobId = await jobs.start({
      kind: 'capture',
      title: `Capture ${name} ${version}`,
      subject: `capture:${captureId}`,
      input,
    });
    journal.tell('packages', 'jobs');
    return { captureId, jobId };
  });

  // A form, not JSON, so it stands outside the checked endpoints; `receiveCapture` checks every part.
  router.post('/captures/upload', async (request, response) => {
    const captureId = newId('capture');
    const { name, publisher, version } = await receiveCapture(request, store.captureFolder(captureId));
    const proposal_json = JSON.stringify({ name, publisher, version, entryPoints: [] });
    await store.addCapture({
      id: captureId,
      package_name: name,
      source: 'upload',
      installer: null,
      state: 'capturing',
      proposal_json,
      created_ms: estate.clock.now(),
    });
    const jobId = await jobs.start({
      kind: 'compare',
      title: `Compare the inventories of ${name} ${version}`,
      subject: `capture:${captureId}`,
      input: { captureId },
    });
    journal.tell('packages', 'jobs');
    response.json({ captureId, jobId });
  });

  serve(router, packageEndpoints.getCapture, async ({ params }) =>
    store.presentCapture(await store.capture(params.id)),
  );

  serve(router, packageEndpoints.comparison, async ({ params }) => {
    await store.capture(params.id);
    const comparison = store.comparison(params.id);
    const pools = await parts.db
      .selectFrom('host')
      .select(({ fn }) => fn.countAll<number>().as('hosts'))
      .executeTakeFirstOrThrow();
    const { users } = await estate.directory.counts();
    const gigabytes = bytesOf(keptEntries(comparison)) / 1e9;
    const answer = {
      ...comparison,
      findings: findingsOf(comparison),
      placement: { people: users, hosts: pools.hosts, gigabytes },
    };
    return JSON.parse(JSON.stringify(answer)) as never;
  });

  serve(router, packageEndpoints.clashes, ({ query }) => clashesOf(parts, store, query.capture));

  serve(router, packageEndpoints.pack, async ({ params, body }) => {
    const capture = await store.capture(params.id);
    if (capture.state === 'capturing') throw conflict('The capture is not finished');
    if (await store.hasVersion(body.name, body.version)) {
      throw invalid([
        {
          path: 'version',
          message: `${body.name} ${body.version} is packaged already; give another version`,
        },
      ]);
    }
    const paths = new Set(pathsToPack(store.comparison(capture.id), body.withoutUpdaters));
    const faults = body.entryPoints.flatMap((entry, i) =>
      paths.has(entry.path)
        ? []
        : [
            {
              path: `entryPoints.${i}.path`,
              message: `${entry.path} is not among the files of the container`,
            },
          ],
    );
    if (faults.length > 0) throw invalid(faults);
    const { withoutUpdaters, formats, ...manifest } = body;
    const input: PackInput = { captureId: capture.id, manifest, withoutUpdaters, formats };
    const jobId = await jobs.start({
      kind: 'pack',
      title: `Build containers of ${body.name} ${body.version}`,
      subject: `capture:${capture.id}`,
      input,
    });
    return { jobId };
  });
}
