/** The rules of pools in the database, and what is known of a pool that they stand on. */
import type { Readiness, ReadinessRulesBody } from '@vatline/contract/pool/readiness';
import { stormOf } from '@vatline/core/pool/demand';
import {
  readinessFaults,
  restingRules,
  type ReadinessFacts,
  type ReadinessRules,
} from '@vatline/core/pool/readiness';
import type { HostPrices } from '@vatline/core/pool/readiness-week';
import { HOURS_A_MONTH } from '@vatline/core/pool/assumptions';
import { startUpStorm } from '@vatline/core/pool/start-up-storm';
import { wallClock } from '@vatline/core/time/zone';
import type { Instant } from '@vatline/core/time/instant';
import { change } from '../platform/change.ts';
import { fromJson } from '../platform/database.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid } from '../platform/problem.ts';
import { freeOperations } from '../pool/free-operations.ts';
import { knownLeads, leadsIn, type KnownLead } from '../pool/lead-times.ts';
import { settingsIn, type PoolStore } from '../pool/pools.ts';
import type { PoolRow } from '../pool/tables.ts';

export interface KeptRules {
  readonly rules: ReadinessRules;
  readonly isKept: boolean;
  readonly revision: number;
}

/** What a pool's storage and size say of starting and cost; it changes with the estate, not with people. */
export interface Surroundings {
  readonly startsAtOnce: number;
  readonly prices: HostPrices;
}

export class ReadinessStore {
  constructor(
    private readonly parts: Parts,
    private readonly pools: PoolStore,
  ) {}

  /** Pools that are to be kept ready. */
  async kept(): Promise<string[]> {
    const rows = await this.parts.db
      .selectFrom('readiness')
      .select('pool_id')
      .where('is_kept', '=', 1)
      .execute();
    return rows.map((row) => row.pool_id);
  }

  /** Where nobody set any, rules that change nothing. */
  async rulesOf(poolId: string, hosts: number): Promise<KeptRules> {
    const row = await this.parts.db
      .selectFrom('readiness')
      .selectAll()
      .where('pool_id', '=', poolId)
      .executeTakeFirst();
    return row
      ? { rules: fromJson<ReadinessRules>(row.rules_json), isKept: row.is_kept === 1, revision: row.revision }
      : { rules: restingRules(Math.max(1, hosts)), isKept: false, revision: 0 };
  }

  /** Throws where they cannot hold for this pool, or where somebody set others meanwhile. */
  async keep(
    poolId: string,
    { rules, isKept, basedOn }: { rules: ReadinessRulesBody; isKept: boolean; basedOn: number },
  ): Promise<number> {
    const pool = await this.pools.pool(poolId);
    const faults = readinessFaults((await this.factsOf(pool)).facts, rules);
    if (faults.length > 0)
      throw invalid(faults.map(({ path, message }) => ({ path: `rules.${path}`, message })));
    const revision = basedOn + 1;
    const row = {
      rules_json: JSON.stringify(rules),
      is_kept: isKept ? 1 : 0,
      revision,
      kept_ms: this.parts.estate.clock.now(),
    };
    await change(
      this.parts,
      async () => {
        const known = await this.rulesOf(poolId, 1);
        if (known.revision !== basedOn)
          throw conflict(
            `The rules of ${pool.name} were kept meanwhile, revision ${known.revision}; this change is based on ${basedOn}`,
            'basedOn',
          );
        await this.parts.db
          .insertInto('readiness')
          .values({ pool_id: poolId, ...row })
          .onConflict((c) => c.column('pool_id').doUpdateSet(row))
          .execute();
      },
      () => ({
        kind: 'pool',
        subject: `pool:${poolId}`,
        text: isKept
          ? `${pool.name} is kept ready by its rules, revision ${revision}`
          : `the rules of ${pool.name} were written down, revision ${revision}; nothing is done by them`,
        link: `/pools/${poolId}/readiness`,
      }),
    );
    return revision;
  }

  /** What the rules are worked out from. */
  async factsOf(
    pool: PoolRow,
  ): Promise<{ facts: ReadinessFacts; leads: Record<'start' | 'resume' | 'make', KnownLead> }> {
    const { activity } = this.parts.estate;
    const { hosts } = await this.pools.hosts.counts(pool.id);
    const leads = await knownLeads(this.parts.db, pool);
    return {
      facts: {
        kind: pool.kind,
        sessionLimit: pool.session_limit,
        hosts,
        expected: await activity.expected(pool.name, hosts, pool.session_limit),
        arrivals: await activity.arrivals(pool.name),
        leads: leadsIn(leads),
      },
      leads,
    };
  }

  /** Over all places of the pool together: each datastore carries its own starts. */
  async surroundingsOf(pool: PoolRow): Promise<Surroundings> {
    const sites = await this.parts.estate.hypervisor.sites();
    const places = await this.pools.placesOf(pool.id);
    let startsAtOnce = 0;
    for (const place of places) {
      const site = sites.find((row) => row.name === place.site);
      const { atOnce } = startUpStorm(
        stormOf(pool.clone, 10_000, place, (name) => freeOperations(site, name)),
      );
      startsAtOnce += atOnce;
    }
    const site = sites.find((row) => row.name === places[0]?.site);
    const size = site?.sizes.find((row) => row.name === settingsIn(pool).size);
    const store = site?.datastores.find((row) => row.name === places[0]?.datastore);
    const memoryPerMonth = ((size?.memoryBytes ?? pool.memory_bytes) / 1e9) * (store?.price ?? 0);
    return {
      // Where not even one keeps to the datastore, one at a time does the least harm.
      startsAtOnce: Math.max(1, startsAtOnce),
      prices: { perHour: size?.pricePerHour ?? 0, suspendedPerHour: memoryPerMonth / HOURS_A_MONTH },
    };
  }

  async notesOf(poolId: string, limit: number): Promise<Readiness['notes']> {
    const rows = await this.parts.db
      .selectFrom('readiness_note')
      .select(['at_ms as at', 'text'])
      .where('pool_id', '=', poolId)
      .orderBy('at_ms', 'desc')
      .limit(limit)
      .execute();
    return rows;
  }

  /** Says what was done; the oldest beyond so many are forgotten. */
  async note(poolId: string, text: string): Promise<void> {
    const { db, estate } = this.parts;
    await db
      .insertInto('readiness_note')
      .values({ pool_id: poolId, at_ms: estate.clock.now(), text })
      .execute();
    const oldest = await db
      .selectFrom('readiness_note')
      .select('at_ms')
      .where('pool_id', '=', poolId)
      .orderBy('at_ms', 'desc')
      .offset(NOTES)
      .limit(1)
      .executeTakeFirst();
    if (oldest)
      await db
        .deleteFrom('readiness_note')
        .where('pool_id', '=', poolId)
        .where('at_ms', '<=', oldest.at_ms)
        .execute();
  }
}

/** Two months of a pool that moves a dozen times a day. */
const NOTES = 800;

/** Day of the week, Monday 0, and minute of the day by the estate's clock. */
export function localNow({ estate }: Pick<Parts, 'estate'>, at: Instant): { day: number; minute: number } {
  const { weekday, minutes } = wallClock(estate.clock.zone, at);
  return { day: (weekday + 6) % 7, minute: Math.floor(minutes) };
}
