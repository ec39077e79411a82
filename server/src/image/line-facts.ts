/** A line with everything that checks look at, as the estate and the pools tell it now. */
import type { LineDetail } from '@vatline/contract/image';
import { checkpointKeys } from '@vatline/core/image/checkpoint-plan';
import { machineState, type LineUnderCheck } from '@vatline/core/image/checks/check';
import { handChanges } from '@vatline/core/image/hand-changes';
import { entryName, type Entry } from '@vatline/core/inventory/entry';
import { findUpdaters } from '@vatline/core/package/updaters';
import { filledSheets } from '../option-sheet/store.ts';
import type { Parts } from '../platform/parts.ts';
import { inventoryWork } from './inventory-work.ts';
import type { ImageStore } from './store.ts';
import type { LineRow } from './tables.ts';

/** Comparing so many entries takes some ten milliseconds; sending them to a worker would take as long. */
const MOST_COMPARED_HERE = 20_000;

type Machine = NonNullable<LineDetail['machine']>;

/** The build machine as the API gives it; undefined when there is none. */
export async function machineFacts(
  parts: Pick<Parts, 'db' | 'estate' | 'workers'>,
  line: LineRow,
): Promise<Machine | undefined> {
  const { hypervisor } = parts.estate;
  const machine = line.machine_id ? await hypervisor.machine(line.machine_id) : undefined;
  if (!machine) return undefined;
  const entries = await hypervisor.inventory(machine.id);
  return {
    ...machine,
    key: line.machine_key,
    updaters: updatersOf(entries),
    shortcuts: entries.filter((entry) => entry.kind === 'shortcut').map(entryName),
    changedByHand: await changedByHand(parts, line, entries),
  };
}

/** What differs on the machine from the checkpoint it was built to; nothing while that is not there. */
async function changedByHand(
  parts: Pick<Parts, 'db' | 'estate' | 'workers'>,
  line: LineRow,
  entries: readonly Entry[],
): Promise<Machine['changedByHand']> {
  const { db, estate } = parts;
  const checkpoint = await db
    .selectFrom('checkpoint')
    .select('snapshot_id')
    .where('line_id', '=', line.id)
    .where('key', '=', line.machine_key ?? '')
    .executeTakeFirst();
  if (!checkpoint) return { count: 0, first: '' };
  const before = await estate.hypervisor.snapshotInventory(checkpoint.snapshot_id);
  const isLarge = entries.length > MOST_COMPARED_HERE;
  return isLarge
    ? inventoryWork(parts, 'changesByHand', { before, now: entries })
    : handChanges(before, entries);
}

/** Services and tasks only: a program that nothing starts does nothing. */
function updatersOf(entries: readonly Entry[]): Machine['updaters'] {
  const runnable = entries.filter((entry) => entry.kind === 'service' || entry.kind === 'task');
  return findUpdaters(runnable).flatMap(({ entry, remedy }) =>
    entry.kind === 'service' || entry.kind === 'task' ? [{ entry, remedy }] : [],
  );
}

/** Pools whose hosts are made from versions of the line. */
export async function poolsOf(parts: Pick<Parts, 'db'>, lineId: string): Promise<LineDetail['pools']> {
  return parts.db
    .selectFrom('pool')
    .select(['name', 'processors'])
    .where('line_id', '=', lineId)
    .orderBy('name')
    .execute();
}

/** Hosts of those pools, with the version each runs. */
export async function hostsOf(
  { db }: Pick<Parts, 'db'>,
  lineId: string,
): Promise<{ id: string; name: string; pool: string; versionId: string }[]> {
  return db
    .selectFrom('host')
    .innerJoin('pool', 'pool.id', 'host.pool_id')
    .innerJoin('blend', 'blend.id', 'host.blend_id')
    .select(['host.id', 'host.name', 'pool.name as pool', 'blend.image_version_id as versionId'])
    .where('pool.line_id', '=', lineId)
    .orderBy('pool.name')
    .orderBy('host.name')
    .execute();
}

export async function lineUnderCheck(
  parts: Parts,
  store: ImageStore,
  line: LineRow,
): Promise<LineUnderCheck> {
  const { expanded: steps, hardware } = await store.recipes.get(line.id, line.recipe_revision);
  const machine = await machineFacts(parts, line);
  return {
    steps,
    hardware,
    machine: machineState(machine, checkpointKeys(hardware, steps).at(-1)),
    sources: await parts.estate.sources.current(),
    optionSheets: await filledSheets(parts.db),
    pools: await poolsOf(parts, line.id),
  };
}
