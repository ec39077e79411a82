/** Compares inventories and answers questions about it, away from the thread that draws. */
import { expose } from 'comlink';
import { compareInventories } from '@vatline/core/inventory/compare';
import { comparisonCsv, comparisonJson } from '@vatline/core/image/comparison-files';
import {
  compareVersions,
  comparisonHeadline,
  type ComparedItem,
  type VersionComparison,
} from '@vatline/core/image/compare-versions';
import {
  readDiffering,
  type DifferingEntries,
  type DifferingLines,
} from '@vatline/core/inventory/differing-lines';
import type { EntryKind } from '@vatline/core/inventory/entry';
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
    const { before, after, same } = await readBoth(from, to, onProgress);
    comparison = compareVersions(before, after, same);
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
    const { before, after } = await readBoth(checkpoint, machine, () => undefined);
    return stepsFromChanges(must(dropNoise(compareInventories(before, after, false))), steps, installers);
  },
};

interface Counts {
  readonly before: number;
  readonly after: number;
  readonly same: DifferingLines['same'];
}

/** What the server finds to differ, read. */
async function readBoth(
  from: InventorySource,
  to: InventorySource,
  onProgress: OnProgress,
): Promise<DifferingEntries> {
  const query = new URLSearchParams({ from, to });
  const response = await fetch(`/api/v1/inventory-differences?${query.toString()}`);
  if (!response.ok || !response.body) {
    const problem = (await response.json().catch(() => undefined)) as { detail?: string } | undefined;
    throw new Error(problem?.detail ?? 'The server does not answer; is it still running?');
  }
  const lines: string[] = [];
  let counts: Counts | undefined;
  for await (const line of linesOf(response.body)) {
    if (counts) lines.push(line);
    else {
      const head = JSON.parse(line) as Counts | { readonly progress: number };
      if ('progress' in head) onProgress(head.progress, 'reading');
      else counts = head;
    }
  }
  if (!counts || lines.length !== counts.before + counts.after)
    throw new Error('The answer ended too early; try again');
  onProgress(0.8, 'comparing');
  const { before: count, same } = counts;
  return must(readDiffering({ before: lines.slice(0, count), after: lines.slice(count), same }));
}

async function* linesOf(body: ReadableStream<Uint8Array>): AsyncGenerator<string> {
  const decoder = new TextDecoder();
  let rest = '';
  for (const reader = body.getReader(); ;) {
    const { done, value } = await reader.read();
    if (done) break;
    const lines = (rest + decoder.decode(value, { stream: true })).split('\n');
    rest = lines.pop() ?? '';
    yield* lines;
  }
  if (rest !== '') yield rest;
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
