/** A capture's difference in a web worker of its own: only the rows in sight come here. */
import { wrap, type Remote } from 'comlink';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { Capture } from '@vatline/contract/capture';
import type {
  DifferenceAnswer,
  DifferenceQuestion,
  DifferenceRow,
} from '@vatline/core/package/shown-difference';
import type { DifferenceWorker } from './difference-worker.ts';

export type DifferenceCalls = Remote<DifferenceWorker>;

export interface OpenDifference {
  readonly calls: DifferenceCalls;
  /** What it was judged by: another one has other rows. */
  readonly judged: string;
}

/** The difference once it is read. When the capture is judged anew, the old one stays until the new one is there. */
export function useDifference(
  { id, rules, counts }: Capture,
  skip: boolean,
): { readonly difference?: OpenDifference; readonly error?: string } {
  const worker = useRef<{ worker: Worker; calls: DifferenceCalls }>(undefined);
  const [state, setState] = useState<{ readonly difference?: OpenDifference; readonly error?: string }>({});
  const judged = JSON.stringify([id, rules, counts]);
  useEffect(
    () => () => {
      worker.current?.worker.terminate();
      worker.current = undefined;
    },
    [],
  );
  useEffect(() => {
    if (skip) return;
    worker.current ??= begun();
    const { calls } = worker.current;
    let current = true;
    calls
      .open(id)
      .then(() => current && setState({ difference: { calls, judged } }))
      .catch((error: unknown) => current && setState({ error: messageOf(error) }));
    return () => {
      current = false;
    };
  }, [id, judged, skip]);
  return state;
}

function begun(): { worker: Worker; calls: DifferenceCalls } {
  const worker = new Worker(new URL('./difference-worker.ts', import.meta.url), { type: 'module' });
  return { worker, calls: wrap<DifferenceWorker>(worker) };
}

/** Rows that are fetched at once; more than a screen has. */
const PAGE = 200;

export interface DifferenceRows {
  readonly answer: DifferenceAnswer | undefined;
  /** Whether the question that was asked last is still being worked on. */
  readonly isBusy: boolean;
  /** The row at a place; none while it is on its way. */
  readonly row: (index: number) => DifferenceRow | undefined;
  readonly onSight: (range: { readonly startIndex: number; readonly endIndex: number }) => void;
}

interface Answered {
  readonly answer: DifferenceAnswer;
  readonly question: string;
  readonly pages: ReadonlyMap<number, readonly DifferenceRow[]>;
}

/** The rows of a question. Those of the one before stay until there is an answer. */
export function useDifferenceRows(
  { calls, judged }: OpenDifference,
  question: DifferenceQuestion,
): DifferenceRows {
  const [shown, setShown] = useState<Answered>();
  const sight = useRef(0);
  const text = JSON.stringify(question);
  const asked = judged + text;
  useEffect(() => {
    let current = true;
    const page = Math.floor(sight.current / PAGE);
    void calls
      .ask(JSON.parse(text) as DifferenceQuestion, page * PAGE, (page + 1) * PAGE)
      .then(({ answer, rows }) => {
        if (current) setShown({ answer, question: asked, pages: new Map([[page, rows]]) });
      });
    return () => {
      current = false;
    };
  }, [calls, text, asked]);
  const fetchPage = useCallback(
    async (page: number, of: string) => {
      const rows = await calls.rows(page * PAGE, (page + 1) * PAGE);
      setShown((before) =>
        before?.question === of ? { ...before, pages: new Map(before.pages).set(page, rows) } : before,
      );
    },
    [calls],
  );
  const onSight = ({ startIndex, endIndex }: { startIndex: number; endIndex: number }) => {
    sight.current = startIndex;
    if (!shown || shown.question !== asked) return;
    for (let page = Math.floor(startIndex / PAGE); page * PAGE <= endIndex; page++)
      if (!shown.pages.has(page)) void fetchPage(page, asked);
  };
  return {
    answer: shown?.answer,
    isBusy: shown?.question !== asked,
    row: (index) => shown?.pages.get(Math.floor(index / PAGE))?.[index % PAGE],
    onSight,
  };
}

function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
