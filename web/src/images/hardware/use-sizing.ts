/** Sizing advice for a machine from assessment data, worked out in a web worker. */
import { wrap, type Remote } from 'comlink';
import { useEffect, useRef, useState } from 'react';
import type { SizingInput } from '@vatline/core/pool/sizing';
import { refuse, type Fault } from '@vatline/core/result';
import type { AssessmentFacts, DrawnAdvice, SizingWorker } from './sizing-worker.ts';

type Question = Omit<SizingInput, 'means'>;

export function useSizing(question: Question) {
  const remote = useRef<{ worker: Worker; calls: Remote<SizingWorker> }>(undefined);
  const [facts, setFacts] = useState<(AssessmentFacts & { readonly name: string }) | undefined>();
  const [faults, setFaults] = useState<readonly Fault[]>([]);
  const [advice, setAdvice] = useState<DrawnAdvice | undefined>();
  const [busy, setBusy] = useState(false);
  useEffect(() => () => remote.current?.worker.terminate(), []);
  const calls = (): Remote<SizingWorker> => {
    if (!remote.current) {
      const worker = new Worker(new URL('./sizing-worker.ts', import.meta.url), { type: 'module' });
      remote.current = { worker, calls: wrap<SizingWorker>(worker) };
    }
    return remote.current.calls;
  };
  /** A file is read where it is worked out, since it may be large. */
  const read = async (name: string, recording: string | File) => {
    setBusy(true);
    const result = await calls()
      .read(recording)
      .catch(() => refuse('file', 'could not be worked through; it may hold too much'));
    setFaults(result.ok ? [] : result.error);
    if (result.ok) setFacts({ ...result.value, name });
    setBusy(false);
  };
  const { processors, memoryBytes, baseMemoryBytes, sessions, seed } = question;
  useEffect(() => {
    if (!facts || processors < 1 || sessions < 1) return;
    let current = true;
    void calls()
      .advise({ processors, memoryBytes, baseMemoryBytes, sessions, seed })
      .then((answer) => current && setAdvice(answer));
    return () => {
      current = false;
    };
  }, [facts, processors, memoryBytes, baseMemoryBytes, sessions, seed]);
  return { facts, faults, advice: facts ? advice : undefined, busy, read };
}
