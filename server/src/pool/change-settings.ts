/** Changing a pool's settings: judged by the core, told to the broker, and kept with a revision. */
import { poolSettingsSchema } from '@vatline/contract/pool/kinds';
import type { ChangedSettings } from '@vatline/contract/pool/settings';
import { settingChanges, settingFaults } from '@vatline/core/pool/settings-change';
import { zoneFault } from '@vatline/core/time/zone';
import type { Fault } from '@vatline/core/result';
import { EstateError } from '../estate/driver/operations.ts';
import { change } from '../platform/change.ts';
import { newId } from '../platform/ids.ts';
import { OneAtATime } from '../platform/one-at-a-time.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid } from '../platform/problem.ts';
import { refuseStale } from '../platform/stale.ts';
import { brokerPoolOf } from './broker-pool.ts';
import { settingsIn, type PoolStore } from './pools.ts';
import type { PoolRow } from './tables.ts';

interface Request {
  readonly settings: ChangedSettings;
  readonly basedOn: number;
}

export class SettingsChanges {
  /** Else of two at once the broker would be told last of the one that is not kept. */
  private readonly turns = new OneAtATime();

  constructor(
    private readonly parts: Parts,
    private readonly pools: PoolStore,
  ) {}

  /** Gives the revision that is kept now. Throws a refusal with everything that stands in the way. */
  change(poolId: string, request: Request): Promise<{ revision: number }> {
    return this.turns.run(() => changeSettings(this.parts, this.pools, poolId, request));
  }
}

async function changeSettings(
  parts: Parts,
  pools: PoolStore,
  poolId: string,
  { settings, basedOn }: Request,
): Promise<{ revision: number }> {
  const { db, estate } = parts;
  const pool = await pools.pool(poolId);
  const { hosts } = await pools.hosts.counts(poolId);
  const { kind, clone, sessionLimit, ...kept } = settings;
  const before = {
    ...settingsIn(pool),
    kind: pool.kind,
    clone: pool.clone,
    sessionLimit: pool.session_limit,
  };
  const changes = settingChanges(before, settings);
  const faults = [...settingFaults(changes, hosts), ...(await choiceFaults(parts, pools, pool, settings))];
  if (faults.length > 0) throw invalid(faults);
  refuseStale('pool', pool.name, pool.settings_revision, basedOn);
  const after: PoolRow = {
    ...pool,
    kind,
    clone,
    session_limit: kind === 'pooled' ? sessionLimit : 1,
    settings_json: JSON.stringify(poolSettingsSchema.parse(kept)),
  };
  const held = brokerPoolOf({ name: pool.name, sessionLimit: after.session_limit }, kept, estate.clock.zone);
  // Told first: what the broker does not take is not kept. After a stop in between it is told again what is.
  try {
    await estate.broker.setPool(newId('settings'), pool.name, held);
  } catch (error) {
    throw error instanceof EstateError ? conflict(error.message) : error;
  }
  return change(
    parts,
    async () => {
      const now = await pools.pool(poolId);
      refuseStale('pool', pool.name, now.settings_revision, basedOn);
      const revision = basedOn + 1;
      const { session_limit, settings_json } = after;
      await db
        .updateTable('pool')
        .set({ kind, clone, session_limit, settings_json, settings_revision: revision })
        .where('id', '=', poolId)
        .execute();
      return { revision };
    },
    () => ({
      kind: 'pool',
      subject: `pool:${poolId}`,
      text: `${pool.name}: ${changes.length === 1 ? 'a setting was' : `${changes.length} settings were`} changed (${changes.map((one) => one.setting).join(', ')})`,
      link: `/pools/${poolId}/settings`,
    }),
  );
}

/** What was chosen and is not there. */
async function choiceFaults(
  { estate }: Parts,
  pools: PoolStore,
  pool: PoolRow,
  { size, zone, licence, joinAccount, chassis }: ChangedSettings,
): Promise<Fault[]> {
  const faults: Fault[] = [];
  const at = (path: string, message: string) => void faults.push({ path, message });
  const zoned = zone === null ? undefined : zoneFault(zone);
  if (zoned) at('zone', zoned.message);
  if (licence !== null && !(await estate.licences.keys()).some((key) => key.name === licence))
    at('licence', `there is no key ${licence}`);
  if (joinAccount !== null && !(await estate.directory.accounts()).some((row) => row.name === joinAccount))
    at('joinAccount', `the directory has no account ${joinAccount}`);
  if (chassis !== null || size === settingsIn(pool).size) return faults;
  const places = new Set((await pools.placesOf(pool.id)).map((place) => place.site));
  const without = (await estate.hypervisor.sites()).find(
    (site) => places.has(site.name) && !site.sizes.some((one) => one.name === size),
  );
  if (without) at('size', `${without.name} has no machine size ${size}`);
  return faults;
}
