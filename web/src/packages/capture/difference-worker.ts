/** Holds a captured difference and answers questions about it, away from the thread that draws. */
import { expose } from 'comlink';
import type { DifferenceLeaf } from '@vatline/core/package/difference-tree';
import type { CaptureComparison } from '@vatline/core/package/noise';
import { proposedRules, type ProposedRule } from '@vatline/core/package/rule-effect';
import {
  ShownDifference,
  type DifferenceAnswer,
  type DifferenceQuestion,
  type DifferenceRow,
} from '@vatline/core/package/shown-difference';

const PROGRAM = /\.(exe|bat|cmd|jar|sh)$|(^|\/)[^./]+$/i;

let shown: ShownDifference | undefined;

function difference(): ShownDifference {
  if (!shown) throw new Error('The difference has not been read yet');
  return shown;
}

const worker = {
  async open(captureId: string): Promise<void> {
    const [comparison, owners] = await Promise.all([
      answerOf(`/captures/${captureId}/comparison`),
      answerOf(`/captures/${captureId}/owners`),
    ]);
    shown = new ShownDifference(
      comparison as CaptureComparison,
      owners as { name: string; entries: string[] }[],
    );
  },

  /** Settles the rows, and gives those from one to before another at once. */
  ask(
    question: DifferenceQuestion,
    from: number,
    to: number,
  ): { readonly answer: DifferenceAnswer; readonly rows: readonly DifferenceRow[] } {
    const answer = difference().ask(question);
    return { answer, rows: difference().rows(from, to) };
  },

  rows: (from: number, to: number): readonly DifferenceRow[] => difference().rows(from, to),

  proposals: (leaf: DifferenceLeaf): readonly ProposedRule[] => proposedRules(difference().comparison, leaf),

  /** Paths of files that came and can be started, the first `atMost`. */
  programs(atMost: number): readonly string[] {
    const programs: string[] = [];
    for (const entry of difference().comparison.added) {
      if (programs.length === atMost) break;
      if (entry.kind === 'file' && PROGRAM.test(entry.path)) programs.push(entry.path);
    }
    return programs;
  },
};

async function answerOf(path: string): Promise<unknown> {
  const response = await fetch(`/api/v1${path}`);
  if (response.ok) return response.json();
  const problem = (await response.json().catch(() => undefined)) as { detail?: string } | undefined;
  throw new Error(problem?.detail ?? 'The server does not answer; is it still running?');
}

export type DifferenceWorker = typeof worker;
expose(worker);
