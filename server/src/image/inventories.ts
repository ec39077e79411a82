import { imageFileEndpoints } from '@vatline/contract/image';
import type { Door } from '../platform/door.ts';
/** Inventories by what they are of: a version, a build machine, a checkpoint, a host; and what differs between two. */
import { MessageChannel } from 'node:worker_threads';
import type { DifferingLines } from '@vatline/core/inventory/differing-lines';
import { inventoryHeader, writeInventory } from '@vatline/core/inventory/text';
import type { Entry } from '@vatline/core/inventory/entry';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid, notFound } from '../platform/problem.ts';
import { sendFile } from '../platform/send-stream.ts';
import { inventoryWork } from './inventory-work.ts';
import type { DifferTask, InventoryText } from './inventory-worker.ts';
import type { ImageStore } from './store.ts';

const TYPE = 'application/x-ndjson';

/**
 * `GET /inventories?of=…`: an inventory as JSON Lines, as `docs/inventory.md` has it.
 * `GET /inventory-differences?from=…&to=…`: first lines `{"progress":0.3}`, then one
 * `{"before":n,"after":m,"same":{kind:count}}`, then the n lines that only the first has and the m
 * that only the second has. Neither is JSON, so both stand outside the checked endpoints.
 */
export function inventoryRoutes(door: Door, parts: Parts, store: ImageStore): void {
  door.serveRaw(imageFileEndpoints.inventory, async ({ query, response }) => {
    const inventory = await sourceOf(parts, store, 'of', query.of);
    response.type(TYPE);
    if ('text' in inventory) return void response.send(inventory.text);
    await sendFile(inventory.file, response);
  });

  door.serveRaw(imageFileEndpoints.inventoryDifference, async ({ query, response }) => {
    const before = await sourceOf(parts, store, 'from', query.from);
    const after = await sourceOf(parts, store, 'to', query.to);
    response.type(TYPE);
    const found = await differ(parts, { before, after }, (progress) => {
      response.write(`${JSON.stringify({ progress })}\n`);
    });
    const counts = { before: found.before.length, after: found.after.length, same: found.same };
    response.end([JSON.stringify(counts), ...found.before, ...found.after].join('\n'));
  });
}

async function differ(
  parts: Parts,
  task: Omit<DifferTask, 'port'>,
  onProgress: (share: number) => void,
): Promise<DifferingLines> {
  const { port1, port2 } = new MessageChannel();
  port1.on('message', onProgress);
  try {
    return await inventoryWork(
      parts,
      'findDifferingLines',
      { ...task, port: port2 },
      { transferList: [port2] },
    );
  } finally {
    port1.close();
  }
}

/** `version:<id>`, `machine:<line>`, `checkpoint:<line>:<key>`, `host:<id>`, or `nothing`: an empty machine. */
async function sourceOf(
  parts: Parts,
  store: ImageStore,
  path: string,
  source: unknown,
): Promise<InventoryText> {
  const [kind, id = '', key = ''] = typeof source === 'string' ? source.split(':') : [];
  switch (kind) {
    case 'nothing':
      return { text: '' };
    case 'version':
      return { file: await versionFile(store, id) };
    case 'machine':
      return asText(parts, await onMachine(parts, store, id));
    case 'checkpoint':
      return asText(parts, await atCheckpoint(parts, store, id, key));
    case 'host':
      return asText(parts, await onHost(parts, id));
    default:
      throw invalid([
        {
          path,
          message: 'must be version:<id>, machine:<line>, checkpoint:<line>:<key>, host:<id> or nothing',
        },
      ]);
  }
}

interface Named {
  readonly root: string;
  readonly entries: readonly Entry[];
}

function asText(parts: Parts, { root, entries }: Named): InventoryText {
  return { text: writeInventory(inventoryHeader(root, parts.estate.clock.now(), false), entries) };
}

async function versionFile(store: ImageStore, id: string): Promise<string> {
  const version = await store.versions.get(id);
  if (version.gone_ms !== null) throw notFound('such image version any more');
  return store.versions.inventoryFile(version);
}

async function onMachine(parts: Parts, store: ImageStore, lineId: string): Promise<Named> {
  const line = await store.lines.get(lineId);
  if (!line.machine_id) throw conflict('There is no build machine yet; build first');
  const entries = await parts.estate.hypervisor.inventory(line.machine_id);
  return { root: `build machine of ${line.name}`, entries };
}

async function atCheckpoint(parts: Parts, store: ImageStore, lineId: string, key: string): Promise<Named> {
  const line = await store.lines.get(lineId);
  const snapshot = (await store.checkpoints.snapshots(lineId)).get(key);
  if (!snapshot) throw notFound('such checkpoint; it may have made room for a newer one');
  return {
    root: `checkpoint of ${line.name}`,
    entries: await parts.estate.hypervisor.snapshotInventory(snapshot),
  };
}

async function onHost(parts: Parts, hostId: string): Promise<Named> {
  const host = await parts.db
    .selectFrom('host')
    .select(['name', 'machine_id'])
    .where('id', '=', hostId)
    .executeTakeFirst();
  if (!host) throw notFound('such host');
  if (host.machine_id === null)
    throw conflict(`${host.name} is no virtual machine; the hypervisor cannot say what is on it`);
  return { root: host.name, entries: await parts.estate.hypervisor.inventory(host.machine_id) };
}
