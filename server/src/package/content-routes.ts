/** What is in a package version, over HTTP: its files, and the container itself. */
import { statSync } from 'node:fs';
import { Readable } from 'node:stream';
import { packageEndpoints, packageFileEndpoints } from '@vatline/contract/package';
import { openContainer } from '@vatline/files/open-container';
import { tarFolder } from '@vatline/files/tar-folder';
import type { Door } from '../platform/door.ts';
import { notFound } from '../platform/problem.ts';
import { sendFile, sendStream } from '../platform/send-stream.ts';
import type { PackageStore } from './store.ts';

const endings = { squashfs: '.squashfs', vhdx: '.vhdx', 'vhdx-fixed': '.vhdx', oci: '.oci.tar' } as const;

export function contentRoutes(door: Door, store: PackageStore): void {
  door.serve(packageEndpoints.contents, async ({ params }) => {
    const version = await store.versions.get(params.id);
    const container = await openContainer(store.containers.path(version.digest));
    try {
      return container.tree.entries.map(({ path, kind, size, target }) => ({
        path,
        kind,
        size,
        target: target ?? '',
      }));
    } finally {
      container.close();
    }
  });

  door.serveRaw(packageFileEndpoints.file, async ({ params, query, response }) => {
    const version = await store.versions.get(params.id);
    const wanted = query.path;
    const container = await openContainer(store.containers.path(version.digest));
    try {
      const entry = container.tree.entries.find((one) => one.path === wanted && one.kind === 'file');
      if (!entry) throw notFound(`file in the container: ${wanted}`);
      response
        .attachment(wanted.slice(wanted.lastIndexOf('/') + 1))
        .type('application/octet-stream')
        .set('content-length', String(entry.size));
      await sendStream(Readable.from(container.tree.read(entry, 1 << 18)), response);
    } finally {
      container.close();
    }
  });

  door.serveRaw(packageFileEndpoints.container, async ({ params, response }) => {
    const version = await store.versions.get(params.id);
    const path = store.containers.path(version.digest);
    const name = version.digest.slice(0, 12);
    response.attachment(`${name}${endings[version.format as keyof typeof endings]}`);
    if (statSync(path).isDirectory())
      await sendStream(tarFolder(path, `${name}.oci`), response.type('application/x-tar'));
    else await sendFile(path, response.type('application/octet-stream'));
  });
}
