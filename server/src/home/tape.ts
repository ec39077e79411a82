/** What lies on a strip of time: jobs, cuts, everything planned, clock changes. */
import type { TapeItem } from '@vatline/contract/home';
import type { Planned } from '@vatline/contract/planned';
import { clockChanges } from '@vatline/core/time/clock-changes';
import { subjectAddress } from '../platform/jobs/subject-address.ts';
import type { Parts } from '../platform/parts.ts';
import { plannedWork } from '../planned/work.ts';
import type { Stores } from './stores.ts';

const MAX_ITEMS = 200;

export async function tapeItems(parts: Parts, stores: Stores, from: number, to: number): Promise<TapeItem[]> {
  const groups = await Promise.all([
    jobItems(parts, from, to),
    cutItems(parts, from, to),
    plannedItems(parts, stores, from, to),
    changesOfClocks(parts.estate.clock.zone, from, to),
  ]);
  return groups
    .flat()
    .sort((a, b) => a.start - b.start)
    .slice(0, MAX_ITEMS);
}

/** Rollouts, rings that wait, and what schedules will do. */
async function plannedItems(parts: Parts, stores: Stores, from: number, to: number): Promise<TapeItem[]> {
  return (await plannedWork(parts, stores, from, to)).map((one) => ({
    id: one.id,
    kind: one.kind === 'rollout' ? 'rollout' : 'planned',
    label: labelOf(one),
    start: one.start,
    end: one.worksUntil,
    dye: one.version?.dye ?? null,
    to: one.to,
  }));
}

function labelOf({ kind, label, hosts, isOver }: Planned): string {
  if (kind === 'rollout') return isOver ? label : `${label} ${hosts ?? ''}`;
  return kind === 'cut' ? label : `then ${label}`;
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

function changesOfClocks(zone: string, from: number, to: number): TapeItem[] {
  return clockChanges(zone, from, to).map(({ at, minutes }) => ({
    id: `clock-${at}`,
    kind: 'clock change',
    label: `clocks go ${minutes > 0 ? 'forward' : 'back'}`,
    start: at,
    end: at,
    dye: null,
    to: '/estate',
  }));
}
