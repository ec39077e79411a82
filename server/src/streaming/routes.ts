/** Streaming stores over HTTP: what hosts stream, what fills, and switching a pool. */
import {
  streamingEndpoints,
  type ScratchDiskShown,
  type StreamedPool,
} from '@vatline/contract/pool/streaming';
import { scratchFillsSoon, scratchFullAt } from '@vatline/core/pool/streaming';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { settingsIn, type PoolStore } from '../pool/pools.ts';
import type { PoolRow } from '../pool/tables.ts';
import { scratchIn } from '../pool/scratch.ts';
import { versionNames } from '../pool/version-names.ts';
import type { Switches } from './switches.ts';
import { versionsOfLine } from './versions.ts';

interface Streamers {
  readonly pools: PoolStore;
  readonly switches: Switches;
}

/** More than a screen of them nobody reads; the rest is counted. */
const SCRATCH_SHOWN = 100;

export function streamingRoutes(door: Door, parts: Parts, all: Streamers): void {
  door.serve(streamingEndpoints.get, async () => {
    const streamed = (await all.pools.all()).filter((pool) => pool.clone === 'network');
    const names = await versionNames(parts);
    const stores = await parts.estate.streaming.stores();
    const scratch = (await Promise.all(streamed.map((pool) => scratchOf(parts, all, pool)))).flat();
    scratch.sort((a, b) => (a.fullAt ?? Infinity) - (b.fullAt ?? Infinity));
    return {
      stores: stores.map((store) => ({
        ...store,
        streams: { ...store.streams },
        images: store.images.map(({ image, ...of }) => ({
          imageId: image,
          name: names.get(image) ?? '',
          ...of,
        })),
      })),
      pools: await Promise.all(streamed.map((pool) => streamedPool(parts, all, pool))),
      scratch: scratch.slice(0, SCRATCH_SHOWN),
      fullSoon: scratch.filter((disk) => disk.isSoon).length,
    };
  });

  door.serve(streamingEndpoints.switchPool, async ({ params, body }) => ({
    waiting: await all.switches.begin(params.id, body.imageVersionId),
  }));
  door.serve(streamingEndpoints.restartIdle, ({ params }) => all.switches.restartIdle(params.id));
}

async function streamedPool(
  { db }: Parts,
  { pools, switches }: Streamers,
  pool: PoolRow,
): Promise<StreamedPool> {
  const versions = await versionsOfLine(db, pool.line_id);
  const refusals = await switches.faultsFor(pool, versions);
  const counts = await pools.hosts.counts(pool.id);
  const blends = await pools.blends.images(pool.id);
  const hosts = new Map<string, number>();
  for (const host of await pools.hosts.of(pool.id)) {
    const version = blends.get(host.blend_id) ?? '';
    hosts.set(version, (hosts.get(version) ?? 0) + 1);
  }
  return {
    id: pool.id,
    name: pool.name,
    store: settingsIn(pool).store ?? '',
    hosts: counts.hosts,
    versions: versions.map(({ id, number, dye }) => ({
      id,
      number,
      dye,
      hosts: hosts.get(id) ?? 0,
      refusal: refusals.get(id) ?? '',
    })),
    switch: await openSwitch(pools, switches, pool, { blends, versions, hosts: counts.hosts }),
  };
}

interface Around {
  readonly blends: ReadonlyMap<string, string>;
  readonly versions: Awaited<ReturnType<typeof versionsOfLine>>;
  readonly hosts: number;
}

async function openSwitch(
  pools: PoolStore,
  switches: Switches,
  pool: PoolRow,
  { blends, versions, hosts }: Around,
): Promise<StreamedPool['switch']> {
  const row = await pools.switchOf(pool.id);
  const version = versions.find((one) => one.id === blends.get(row?.to_blend_id ?? ''));
  if (!row || !version) return null;
  const waiting = await switches.waitingFor(row);
  return {
    versionId: version.id,
    number: version.number,
    dye: version.dye,
    begunAt: row.begun_ms,
    switched: hosts - waiting.length,
    waiting: waiting.length,
    off: waiting.filter((host) => host.power !== 'on').length,
    idle: (await switches.idle(pool, waiting)).length,
  };
}

/** Disks of hosts that are on; the others are empty when they start. */
async function scratchOf(
  { estate }: Parts,
  { pools }: Streamers,
  pool: PoolRow,
): Promise<ScratchDiskShown[]> {
  const hosts = (await pools.hosts.of(pool.id)).filter((host) => host.power === 'on');
  const streams = await estate.streaming.of(hosts.map((host) => host.name));
  const now = estate.clock.now();
  return hosts.flatMap(({ name }) => {
    const stream = streams.get(name);
    if (!stream) return [];
    const disk = scratchIn(stream);
    return {
      host: name,
      poolId: pool.id,
      pool: pool.name,
      ...disk,
      fullAt: scratchFullAt(disk, now),
      isSoon: scratchFillsSoon(disk),
    };
  });
}
