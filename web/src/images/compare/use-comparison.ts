/** Comparisons of inventories, worked out in a web worker. */
import { proxy, wrap, type Remote } from 'comlink';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { CompareWorker, ComparisonSummary, InventorySource } from './compare-worker.ts';

/** A worker of this component, begun at its first call and ended with it. */
export function useCompareWorker(): () => Remote<CompareWorker> {
  const remote = useRef<{ worker: Worker; calls: Remote<CompareWorker> }>(undefined);
  useEffect(
    () => () => {
      remote.current?.worker.terminate();
      remote.current = undefined;
    },
    [],
  );
  return useCallback(() => {
    if (!remote.current) {
      const worker = new Worker(new URL('./compare-worker.ts', import.meta.url), { type: 'module' });
      remote.current = { worker, calls: wrap<CompareWorker>(worker) };
    }
    return remote.current.calls;
  }, []);
}

export interface ComparisonState {
  readonly summary?: ComparisonSummary;
  readonly progress?: { readonly share: number; readonly what: string };
  readonly error?: string;
}

/** Compares two sources; nothing while one of them is not chosen. */
export function useComparison(from: InventorySource, to: InventorySource) {
  const calls = useCompareWorker();
  const [state, setState] = useState<ComparisonState & { readonly of?: string }>({});
  const of = `${from} ${to}`;
  useEffect(() => {
    if (!from || !to) return;
    // News of progress comes by another way than the answer and may come after it.
    let current = true;
    const set = (next: ComparisonState) => {
      if (current) setState({ ...next, of });
      if (!next.progress) current = false;
    };
    set({ progress: { share: 0, what: 'reading' } });
    calls()
      .compare(
        from,
        to,
        proxy((share: number, what: string) => void set({ progress: { share, what } })),
      )
      .then((summary) => set({ summary }))
      .catch((error: unknown) => set({ error: error instanceof Error ? error.message : String(error) }));
    return () => {
      current = false;
    };
  }, [calls, from, to, of]);
  return { ...(state.of === of ? state : {}), calls };
}
