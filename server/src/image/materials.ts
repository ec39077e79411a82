/** What versions are made of: bills of materials, and the search over all that any of them holds. */
import { imageFileEndpoints } from '@vatline/contract/image';
import { applicationSearchEndpoints } from '@vatline/contract/application-search';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import { searchApplications } from './application-index.ts';
import { inventoryWork } from './inventory-work.ts';
import type { ImageStore } from './store.ts';

export function materialRoutes(door: Door, parts: Parts, store: ImageStore): void {
  door.serve(applicationSearchEndpoints.search, async ({ query }) => {
    const { found, hosts } = await searchApplications(parts.db, query.q, query.limit + 1);
    return { found: found.slice(0, query.limit), hosts, more: found.length > query.limit };
  });

  // A document of another standard, so it stands outside the checked endpoints.
  door.serveRaw(imageFileEndpoints.bom, async ({ params, response }) => {
    const version = await store.versions.get(params.id);
    if (version.gone_ms !== null) throw notFound('such image version any more');
    const line = await store.lines.get(version.line_id);
    const installers = await parts.estate.packaging.installers();
    const licences = new Map(installers.map((row) => [`${row.publisher}\0${row.name}`, row.licence]));
    const bom = await inventoryWork(parts, 'bomText', {
      subject: { line: line.name, number: version.number, cutAt: version.cut_ms },
      licences,
      file: store.versions.inventoryFile(version),
    });
    const name = `${line.name.replace(/[^\w-]+/g, '-')}-${version.number}.cdx.json`;
    response.attachment(name).type('application/vnd.cyclonedx+json').send(`${bom}\n`);
  });
}
