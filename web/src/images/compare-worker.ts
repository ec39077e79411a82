/** Reads inventories and compares them, away from the thread that draws. */
import { expose } from 'comlink';
import { compareInventories } from '@vatline/core/image/compare-inventories';
import { comparisonCsv, comparisonJson } from '@vatline/core/image/comparison-files';
import {
  compareVersions,
  comparisonHeadline,
  type ComparedItem,
  type VersionComparison,
} from '@vatline/core/image/compare-versions';
import { parseEntry, parseHeader, type Entry, type EntryKind } from '@vatline/core/image/inventory';
import type { Step } from '@vatline/core/image/recipe';
import {
  stepsFromChanges,
  type HandMadeChange,
  type KnownInstaller,
} from '@vatline/core/image/steps-from-changes';
import { dropNoise } from '@vatline/core/package/noise';
import { must } from '@vatline/core/result';

/** A source of an inventory as `GET /inventories` names it, or `nothing`: an empty machine. */
export type InventorySource = string;

export interface GroupSummary {
  readonly kind: EntryKind;
  readonly counts: Readonly<Record<ComparedItem['change'], number>>;
  readonly same: number;
  readonly bytes: number;
}

export interface ComparisonSummary {
  readonly headline: string;
  readonly groups: readonly GroupSummary[];
  readonly sizeChange: number;
  readonly equal: boolean;
}

export interface FoundGroup {
  readonly kind: EntryKind;
  /** How many are found, and the first of them. */
  readonly count: number;
  readonly items: readonly ComparedItem[];
}

/** Share done, 0 to 1, and what is being done. */
export type OnProgress = (share: number, what: string) => void;

let comparison: VersionComparison | undefined;

const worker = {
  async compare(
    from: InventorySource,
    to: InventorySource,
    onProgress: OnProgress,
  ): Promise<ComparisonSummary> {
    const [before, after] = await readBoth(from, to, onProgress);
    onProgress(0.85, 'comparing');
    comparison = compareVersions(before, after);
    onProgress(1, 'done');
    return summaryOf(comparison);
  },

  /** Differences whose name or values hold a text, by kind, the first `atMost` of each. */
  find(text: string, atMost: number): FoundGroup[] {
    const wanted = text.toLowerCase();
    return (comparison?.groups ?? []).flatMap(({ kind, items }) => {
      const found =
        wanted === ''
          ? items
          : items.filter(({ name, before, after }) =>
              `${name} ${before} ${after}`.toLowerCase().includes(wanted),
            );
      return found.length > 0 ? [{ kind, count: found.length, items: found.slice(0, atMost) }] : [];
    });
  },

  csv: (): string => (comparison ? comparisonCsv(comparison) : ''),
  json: (from: string, to: string): string => (comparison ? comparisonJson(from, to, comparison) : ''),

  /** What differs on a machine from its last checkpoint, as steps that would bring it about again. */
  async changesByHand(
    checkpoint: InventorySource,
    machine: InventorySource,
    steps: readonly Step[],
    installers: readonly KnownInstaller[],
  ): Promise<HandMadeChange[]> {
    const [before, after] = await readBoth(checkpoint, machine, () => undefined);
    return stepsFromChanges(must(dropNoise(compareInventories(before, after, false))), steps, installers);
  },
};

async function readBoth(
  from: InventorySource,
  to: InventorySource,
  onProgress: OnProgress,
): Promise<[readonly Entry[], readonly Entry[]]> {
  const shares = [0, 0];
  const tell = (which: 0 | 1) => (share: number) => {
    shares[which] = share;
    onProgress(0.6 * ((shares[0] as number) + (shares[1] as number)) * 0.5, 'reading');
  };
  const [old, now] = await Promise.all([fetchText(from, tell(0)), fetchText(to, tell(1))]);
  const known = new Map<string, Entry>();
  const before = readEntries(old, known);
  onProgress(0.7, 'reading');
  return [before, readEntries(now, known)];
}

async function fetchText(source: InventorySource, onShare: (share: number) => void): Promise<string> {
  if (source === 'nothing') return '';
  const response = await fetch(`/api/v1/inventories?of=${encodeURIComponent(source)}`);
  if (!response.ok || !response.body) {
    const problem = (await response.json().catch(() => undefined)) as { detail?: string } | undefined;
    throw new Error(problem?.detail ?? 'The server does not answer; is it still running?');
  }
  const total = Number(response.headers.get('content-length') ?? 0);
  const decoder = new TextDecoder();
  const pieces: string[] = [];
  let read = 0;
  for (const reader = response.body.getReader(); ;) {
    const { done, value } = await reader.read();
    if (done) break;
    read += value.length;
    pieces.push(decoder.decode(value, { stream: true }));
    if (total > 0) onShare(Math.min(1, read / total));
  }
  return pieces.join('') + decoder.decode();
}

/** Two inventories are mostly the same, so a line that was read once is not read again. */
function readEntries(text: string, known: Map<string, Entry>): readonly Entry[] {
  if (text === '') return [];
  const entries: Entry[] = [];
  for (let number = 1, at = 0; at < text.length; number++) {
    const end = text.indexOf('\n', at);
    const line = text.slice(at, end < 0 ? text.length : end);
    at = end < 0 ? text.length : end + 1;
    if (number === 1) must(parseHeader(line));
    else if (line !== '') {
      let entry = known.get(line);
      if (!entry) known.set(line, (entry = must(parseEntry(line, number))));
      entries.push(entry);
    }
  }
  return entries;
}

function summaryOf(found: VersionComparison): ComparisonSummary {
  return {
    headline: comparisonHeadline(found),
    sizeChange: found.sizeChange,
    equal: found.equal,
    groups: found.groups.map(({ kind, items, same, bytes }) => {
      const counts = { added: 0, removed: 0, changed: 0, moved: 0 };
      for (const item of items) counts[item.change]++;
      return { kind, counts, same, bytes };
    }),
  };
}

export type CompareWorker = typeof worker;
expose(worker);
