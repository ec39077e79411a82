/** What lies on a strip of time: jobs, cuts, windows of open rollouts, clock changes. */
import type { TapeItem } from '@vatline/contract/home';
import { planCuts } from '@vatline/core/image/cut-plan';
import { windowsFrom } from '@vatline/core/time/windows';
import { DAY, HOUR, MINUTE } from '@vatline/core/time/instant';
import { wallClock } from '@vatline/core/time/zone';
import { subjectAddress } from '../platform/jobs/subject-address.ts';
import type { Parts } from '../platform/parts.ts';
import type { Stores } from './stores.ts';

const MAX_ITEMS = 200;

export async function tapeItems(parts: Parts, stores: Stores, from: number, to: number): Promise<TapeItem[]> {
  const groups = await Promise.all([
    rolloutItems(stores, from, to),
    jobItems(parts, from, to),
    cutItems(parts, from, to),
    plannedItems(parts, stores, from, to),
    ringItems(stores, from, to),
    clockChanges(parts.estate.clock.zone, from, to),
  ]);
  return groups
    .flat()
    .sort((a, b) => a.start - b.start)
    .slice(0, MAX_ITEMS);
}

async function rolloutItems(stores: Stores, from: number, to: number): Promise<TapeItem[]> {
  const items: TapeItem[] = [];
  for (const rollout of await stores.rollouts.list()) {
    const end = rollout.endedAt ?? rollout.pausedAt ?? rollout.expectedAt ?? to;
    if (end < from || rollout.startedAt > to) continue;
    const windows = windowsFrom(await stores.rollouts.windowRule(rollout), rollout.windowsFrom);
    if (!windows.ok) continue;
    const left = rollout.hosts - rollout.done;
    for (const window of windows.value) {
      if (window.start > Math.min(to, end)) break;
      if (window.end < Math.max(from, rollout.startedAt) || window.minutes === 0) continue;
      const label =
        rollout.endedAt === null && window.end > (rollout.nextWindow?.start ?? 0)
          ? `${rollout.pool} ${left}`
          : rollout.pool;
      items.push({
        id: `${rollout.id}-${window.start}`,
        kind: 'rollout',
        label,
        start: window.start,
        end: Math.min(window.end, Math.max(end, window.start + 30 * MINUTE)),
        dye: rollout.to.dye,
        to: `/rollouts/${rollout.id}`,
      });
    }
  }
  return items;
}

async function jobItems(parts: Parts, from: number, to: number): Promise<TapeItem[]> {
  const rows = await parts.jobs.store.list(undefined, 60);
  const now = parts.estate.clock.now();
  return rows
    .filter((row) => row.kind !== 'machine' && row.created_ms <= to && (row.ended_ms ?? now) >= from)
    .map((row) => {
      return {
        id: row.id,
        kind: 'job',
        label: row.title,
        start: row.created_ms,
        end: row.ended_ms ?? now,
        dye: null,
        to: subjectAddress(row.subject),
      };
    });
}

async function cutItems({ db }: Parts, from: number, to: number): Promise<TapeItem[]> {
  const cut = await db
    .selectFrom('image_version')
    .innerJoin('image_line', 'image_line.id', 'image_version.line_id')
    .select(['image_version.id', 'line_id', 'image_line.name', 'number', 'dye', 'cut_ms'])
    .where('gone_ms', 'is', null)
    .where('cut_ms', '>=', from)
    .where('cut_ms', '<=', to)
    .execute();
  return cut.map((version) => ({
    id: version.id,
    kind: 'cut',
    label: `${version.name} ${version.number}`,
    start: version.cut_ms,
    end: version.cut_ms,
    dye: version.dye,
    to: `/images/${version.line_id}/versions`,
  }));
}

const PLANNED_CUTS = 8;

/** What schedules will do: cuts to come, and the windows of the rollouts that follow each. */
async function plannedItems(parts: Parts, stores: Stores, from: number, to: number): Promise<TapeItem[]> {
  const items: TapeItem[] = [];
  const now = Math.max(from, parts.estate.clock.now());
  const rows = await parts.db.selectFrom('pool').select(['id', 'name']).execute();
  const pools = new Map(rows.map((pool) => [pool.id, pool.name]));
  for (const { lineId, schedule, after } of await stores.schedules.all()) {
    const line = await stores.images.lines.get(lineId);
    const plan = planCuts(schedule, Math.max(after, now), PLANNED_CUTS);
    for (const cut of plan.ok ? plan.value : []) {
      const link = { dye: null, to: `/images/${lineId}/schedule`, kind: 'planned' as const };
      if (cut.cutAt <= to)
        items.push({
          ...link,
          id: `planned-${lineId}-${cut.cutAt}`,
          label: `cut ${line.name}`,
          start: cut.cutAt,
          end: cut.cutAt,
        });
      for (const { poolId, window } of cut.rollouts)
        if (window && window.start <= to)
          items.push({
            ...link,
            id: `planned-${poolId}-${window.start}`,
            label: `then ${pools.get(poolId) ?? ''}`,
            start: window.start,
            end: window.end,
          });
    }
  }
  return items;
}

/** Rings that wait for the ones before them. */
async function ringItems({ stagedPresenter }: Stores, from: number, to: number): Promise<TapeItem[]> {
  return (await stagedPresenter.ahead())
    .filter(({ start, end }) => start <= to && end >= from)
    .map(({ id, stagedId, pool, dye, start, end }) => ({
      id,
      kind: 'planned',
      label: `then ${pool}`,
      start,
      end,
      dye,
      to: `/rollouts/staged/${stagedId}`,
    }));
}

/** The hours at which a zone's clocks change, found by comparing wall time with time that passed. */
function clockChanges(zone: string, from: number, to: number): TapeItem[] {
  const items: TapeItem[] = [];
  const offset = (at: number) => {
    const wall = wallClock(zone, at);
    return Date.UTC(wall.year, wall.month - 1, wall.day) + wall.minutes * MINUTE - at;
  };
  for (let day = Math.floor(from / DAY) * DAY; day < to; day += DAY) {
    if (Math.round((offset(day + DAY) - offset(day)) / MINUTE) === 0) continue;
    for (let hour = day; hour < day + DAY; hour += HOUR) {
      const change = Math.round((offset(hour + HOUR) - offset(hour)) / MINUTE);
      if (change === 0) continue;
      const label = `clocks go ${change > 0 ? 'forward' : 'back'}`;
      items.push({
        id: `clock-${hour}`,
        kind: 'clock change',
        label,
        start: hour + HOUR,
        end: hour + HOUR,
        dye: null,
        to: '/estate',
      });
    }
  }
  return items;
}
