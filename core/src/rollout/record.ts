/** What came of a rollout, host by host: figures for whoever reads its record, and CSV for whoever works on. */
import { stringify } from 'csv-stringify/browser/esm/sync';
import { quantile } from '../quantile.ts';
import { formatInstant, MINUTE, type Instant } from '../time/instant.ts';
import type { HostWay } from './blends/way.ts';
import type { HostStage } from './host-state.ts';

export interface RecordedHost {
  readonly name: string;
  /** Null for one whose turn never came. */
  readonly way: HostWay | null;
  readonly stage: HostStage;
  readonly attempts: number;
  /** Of its first attempt. */
  readonly startedAt: Instant | null;
  readonly finishedAt: Instant | null;
  /** What failed last; null where nothing did, or it was done in the end. */
  readonly error: string | null;
}

export interface RecordFigures {
  readonly done: number;
  readonly setAside: number;
  /** Never begun, because it was stopped before. */
  readonly untouched: number;
  /** Done, and not at the first attempt. */
  readonly triedAgain: number;
  /** Minutes from the first attempt until it was done; null where none is. */
  readonly medianMinutes: number | null;
  readonly slowest: { readonly name: string; readonly minutes: number } | null;
}

export function recordFigures(hosts: readonly RecordedHost[]): RecordFigures {
  const done = hosts.filter(({ stage }) => stage === 'done');
  const lengths = done
    .flatMap(({ name, startedAt, finishedAt }) =>
      startedAt === null || finishedAt === null ? [] : [{ name, minutes: (finishedAt - startedAt) / MINUTE }],
    )
    .sort((a, b) => a.minutes - b.minutes);
  return {
    done: done.length,
    setAside: hosts.filter(({ stage }) => stage === 'set aside').length,
    untouched: hosts.filter(({ stage, attempts }) => stage === 'waiting' && attempts === 0).length,
    triedAgain: done.filter(({ attempts }) => attempts > 1).length,
    medianMinutes:
      quantile(
        lengths.map(({ minutes }) => minutes),
        0.5,
      ) ?? null,
    slowest: lengths.at(-1) ?? null,
  };
}

const columns = ['host', 'way', 'came to', 'attempts', 'begun', 'done', 'minutes', 'failed with'];

/** A line a host; instants in ISO 8601, UTC. What a spreadsheet would take for a formula is made text. */
export function recordCsv(hosts: readonly RecordedHost[]): string {
  const instant = (at: Instant | null) => (at === null ? '' : formatInstant(at));
  const rows = hosts.map(({ name, way, stage, attempts, startedAt, finishedAt, error }) => [
    name,
    way ?? '',
    stage,
    attempts,
    instant(startedAt),
    instant(finishedAt),
    startedAt === null || finishedAt === null ? '' : Math.round((finishedAt - startedAt) / MINUTE),
    error ?? '',
  ]);
  return stringify([columns, ...rows], { escape_formulas: true, record_delimiter: '\r\n' });
}
