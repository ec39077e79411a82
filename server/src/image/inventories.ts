/** Inventories by what they are of: a version, a build machine, a checkpoint, a host. */
import { createReadStream, statSync } from 'node:fs';
import type { Response, Router } from 'express';
import { inventoryHeader, writeInventory, type Entry } from '@vatline/core/image/inventory';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid, notFound } from '../platform/problem.ts';
import type { ImageStore } from './store.ts';

const TYPE = 'application/x-ndjson';

/**
 * `GET /inventories?of=version:<id>`, `machine:<line>`, `checkpoint:<line>:<key>` or `host:<id>`:
 * the inventory as JSON Lines, as `docs/inventory.md` has it. Not JSON, so it stands outside the
 * checked endpoints.
 */
export function inventoryRoutes(router: Router, parts: Parts, store: ImageStore): void {
  router.get('/inventories', async (request, response) => {
    const of = typeof request.query['of'] === 'string' ? request.query['of'] : '';
    const [kind, id = '', key = ''] = of.split(':');
    switch (kind) {
      case 'version':
        return sendVersion(response, store, id);
      case 'machine':
        return sendEntries(parts, response, ...(await onMachine(parts, store, id)));
      case 'checkpoint':
        return sendEntries(parts, response, ...(await atCheckpoint(parts, store, id, key)));
      case 'host':
        return sendEntries(parts, response, ...(await onHost(parts, id)));
      default:
        throw invalid([
          {
            path: 'of',
            message: 'must be version:<id>, machine:<line>, checkpoint:<line>:<key> or host:<id>',
          },
        ]);
    }
  });
}

async function sendVersion(response: Response, store: ImageStore, id: string): Promise<void> {
  const version = await store.version(id);
  if (version.gone_ms !== null) throw notFound('such image version any more');
  const file = store.inventoryFile(version);
  response.type(TYPE).setHeader('Content-Length', statSync(file).size);
  createReadStream(file).pipe(response);
}

function sendEntries(parts: Parts, response: Response, root: string, entries: readonly Entry[]): void {
  response.type(TYPE).send(writeInventory(inventoryHeader(root, parts.estate.clock.now(), false), entries));
}

type Named = [root: string, entries: readonly Entry[]];

async function onMachine(parts: Parts, store: ImageStore, lineId: string): Promise<Named> {
  const line = await store.line(lineId);
  if (!line.machine_id) throw conflict('There is no build machine yet; build first');
  return [`build machine of ${line.name}`, await parts.estate.hypervisor.inventory(line.machine_id)];
}

async function atCheckpoint(parts: Parts, store: ImageStore, lineId: string, key: string): Promise<Named> {
  const line = await store.line(lineId);
  const snapshot = (await store.checkpoints(lineId)).get(key);
  if (!snapshot) throw notFound('such checkpoint; it may have made room for a newer one');
  return [`checkpoint of ${line.name}`, await parts.estate.hypervisor.snapshotInventory(snapshot)];
}

async function onHost(parts: Parts, hostId: string): Promise<Named> {
  const host = await parts.db
    .selectFrom('host')
    .select(['name', 'machine_id'])
    .where('id', '=', hostId)
    .executeTakeFirst();
  if (!host) throw notFound('such host');
  return [host.name, await parts.estate.hypervisor.inventory(host.machine_id)];
}
