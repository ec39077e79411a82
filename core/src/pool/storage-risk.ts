/**
 * Whether datastores fill before the next rebuild. Growth is uncertain: each host has one daily
 * growth, kept over all days, log-normal from its median and 90th percentile; the chance comes
 * from seeded draws of all hosts. What was over-committed plays no part: bytes fill a disk, promises do not.
 * See `docs/models.md`, "Clone storage".
 */
import { quantile } from '../quantile.ts';
import { seededRandom, type Random } from '../random.ts';
import {
  dealHosts,
  fixedBytesOn,
  perHostBytes,
  type CloneKind,
  type CloneStorageInput,
} from './clone-storage.ts';

/** Draws that a chance is worked out from. */
export const STORAGE_DRAWS = 2_000;

export interface Growth {
  readonly medianBytesPerDay: number;
  readonly p90BytesPerDay: number;
}

export interface DrawsRequest {
  readonly hosts: number;
  readonly datastores: number;
  readonly growth: Growth;
  readonly runs: number;
  readonly seed: number | string;
}

/** For each datastore, what all hosts on it together grow in a day, draw by draw. */
export interface GrowthDraws {
  readonly byDatastore: readonly Float64Array[];
  readonly runs: number;
}

/** Draws the growth of every host in every run. Work: runs × hosts. */
export function drawGrowth({ hosts, datastores, growth, runs, seed }: DrawsRequest): GrowthDraws {
  const random = seededRandom(seed);
  const dealt = dealHosts(hosts, datastores);
  const byDatastore = dealt.map(() => new Float64Array(runs));
  for (let run = 0; run < runs; run++)
    for (const [place, own] of dealt.entries())
      (byDatastore[place] as Float64Array)[run] = sumOfGrowths(random, own, growth);
  return { byDatastore, runs };
}

/** The 90th percentile of the standard normal distribution. */
const Z90 = 1.2816;

/**
 * Growth of so many hosts together: each log-normal with μ = ln m, σ = ln(q/m) / 1.2816, two at a
 * time by the polar method (Marsaglia and Bray 1964), which at millions of draws is faster than sines.
 */
function sumOfGrowths(
  random: Random,
  hosts: number,
  { medianBytesPerDay: m, p90BytesPerDay: q }: Growth,
): number {
  if (q <= m || m <= 0) return hosts * m;
  const sigma = Math.log(q / m) / Z90;
  let sum = 0;
  for (let host = 0; host < hosts; host += 2) {
    let x: number;
    let y: number;
    let square: number;
    do {
      x = 2 * random() - 1;
      y = 2 * random() - 1;
      square = x * x + y * y;
    } while (square >= 1 || square === 0);
    const factor = sigma * Math.sqrt((-2 * Math.log(square)) / square);
    sum += Math.exp(factor * x);
    if (host + 1 < hosts) sum += Math.exp(factor * y);
  }
  return m * sum;
}

/** The share of runs, 0 to 1, in which some datastore is over its capacity after so many days. */
export function chanceOfFilling(
  kind: CloneKind,
  input: CloneStorageInput,
  draws: GrowthDraws,
  days: number = input.days,
): number {
  const room = input.datastores.map((_, place) => roomToGrow(kind, input, place));
  let filled = 0;
  for (let run = 0; run < draws.runs; run++)
    if (room.some((free, place) => grownBytes(kind, draws, place, run, days) > free)) filled++;
  return draws.runs === 0 ? 0 : filled / draws.runs;
}

/** Bytes of all datastores together on one day, and the chance that one of them is full by then. */
export interface FillingDay {
  readonly day: number;
  readonly p10Bytes: number;
  readonly p50Bytes: number;
  readonly p90Bytes: number;
  readonly chance: number;
}

/** Each day from 0 to the last one, as if nothing was rebuilt until then. */
export function fillingByDay(
  kind: CloneKind,
  input: CloneStorageInput,
  draws: GrowthDraws,
  lastDay: number,
): FillingDay[] {
  const atFirst = input.datastores.reduce(
    (sum, store, place) => sum + store.capacityBytes - roomToGrow(kind, input, place),
    0,
  );
  const together = Float64Array.from({ length: draws.runs }, (_, run) =>
    kind === 'network' ? 0 : draws.byDatastore.reduce((sum, own) => sum + (own[run] ?? 0), 0),
  ).sort();
  const at = (share: number, day: number) => atFirst + (quantile(together, share) ?? 0) * day;
  return Array.from({ length: lastDay + 1 }, (_, day) => ({
    day,
    p10Bytes: at(0.1, day),
    p50Bytes: at(0.5, day),
    p90Bytes: at(0.9, day),
    chance: chanceOfFilling(kind, input, draws, day),
  }));
}

/** What a datastore has left for growth once every host was made. */
function roomToGrow(kind: CloneKind, input: CloneStorageInput, place: number): number {
  const store = input.datastores[place];
  const hosts = dealHosts(input.hosts, input.datastores.length)[place] ?? 0;
  if (!store) return 0;
  const atFirst = perHostBytes(kind, { ...input, days: 0 });
  return store.capacityBytes - store.usedBytes - fixedBytesOn(kind, input, place) - hosts * atFirst;
}

/** A scratch disk has its size from the beginning; nothing else of a streamed host grows. */
function grownBytes(kind: CloneKind, draws: GrowthDraws, place: number, run: number, days: number): number {
  return kind === 'network' ? 0 : (draws.byDatastore[place]?.[run] ?? 0) * days;
}
