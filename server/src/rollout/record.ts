/** The record of a rollout, as a page and as a file. */
import { recordEndpoints, recordFileEndpoints, type RolloutRecord } from '@vatline/contract/rollout-record';
import { recordCsv, recordFigures, type RecordedHost } from '@vatline/core/rollout/record';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import type { Plans } from './plans.ts';
import { revisionsOf } from './revisions.ts';
import type { RolloutStore } from './store.ts';
import type { RolloutRow } from './tables.ts';

export function recordRoutes(door: Door, parts: Parts, plans: Plans, store: RolloutStore): void {
  door.serve(recordEndpoints.get, async ({ params }): Promise<RolloutRecord> => {
    const row = await store.rollout(params.id);
    const hosts = await recordedHosts(parts, row.id);
    return {
      rollout: await store.presented(row.id),
      promised: { p10: row.promised_p10_ms, p50: row.promised_p50_ms, p90: row.promised_ms },
      revisions: await revisionsOf(parts, plans, row.id),
      approvals: await approvalsOf(parts, row),
      figures: recordFigures(hosts),
      hosts,
    };
  });

  door.serveRaw(recordFileEndpoints.hosts, async ({ params: { id }, response }) => {
    const { pool } = await store.presented(id);
    response
      .attachment(`rollout-${pool}.csv`)
      .type(recordFileEndpoints.hosts.gives)
      .send(recordCsv(await recordedHosts(parts, id)));
  });
}

/** As they began; also those that were removed since. */
async function recordedHosts({ db }: Parts, id: string): Promise<RecordedHost[]> {
  const rows = await db
    .selectFrom('rollout_host')
    .innerJoin('known_host', 'known_host.id', 'rollout_host.host_id')
    .select(['known_host.name', 'way', 'stage', 'attempts', 'started_ms', 'finished_ms', 'error'])
    .where('rollout_id', '=', id)
    .orderBy('number')
    .execute();
  return rows.map(({ started_ms, finished_ms, ...row }) => ({
    ...row,
    startedAt: started_ms,
    finishedAt: finished_ms,
  }));
}

/** Of the image version that it leads to, up to its end, and of the ring that it is. */
async function approvalsOf(
  { db }: Parts,
  { id, to_blend_id, ended_ms }: RolloutRow,
): Promise<RolloutRecord['approvals']> {
  const version = await db
    .selectFrom('blend')
    .innerJoin('image_version', 'image_version.id', 'blend.image_version_id')
    .innerJoin('image_line', 'image_line.id', 'image_version.line_id')
    .innerJoin('version_change', 'version_change.version_id', 'image_version.id')
    .select([
      'image_line.name',
      'image_version.number',
      'version_change.by_role as by',
      'version_change.at_ms as at',
      'version_change.note as why',
    ])
    .where('blend.id', '=', to_blend_id)
    .where('version_change.state', '=', 'approved')
    .where('version_change.at_ms', '<=', ended_ms ?? Number.MAX_SAFE_INTEGER)
    .execute();
  const rings = await db
    .selectFrom('ring')
    .innerJoin('gate_decision', 'gate_decision.ring_id', 'ring.id')
    .select([
      'ring.name',
      'gate_decision.what',
      'gate_decision.by_role as by',
      'gate_decision.at_ms as at',
      'gate_decision.why',
    ])
    .where('rollout_id', '=', id)
    .execute();
  return [
    ...version.map(({ name, number, ...rest }) => ({ ...rest, what: `${name} ${number} approved` })),
    ...rings.map(({ name, what, by, ...rest }) => ({
      ...rest,
      by: by ?? 'nobody named',
      what: `gate behind ${name}: ${what}`,
    })),
  ].sort((a, b) => b.at - a.at);
}
