/** Advice on sizes from assessment data, worked out in a web worker. */
import { wrap, type Remote } from 'comlink';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { SizeAnswer, SizeQuestion } from '@vatline/core/pool/size-choice';
import type { SizingInput } from '@vatline/core/pool/sizing';
import { refuse, type Fault } from '@vatline/core/result';
import type { AssessmentFacts, DrawnAdvice, SizingWorker } from './sizing-worker.ts';

/** Reads a recording in a worker that is kept as long as the screen is open. */
function useRecording() {
  const remote = useRef<{ worker: Worker; calls: Remote<SizingWorker> }>(undefined);
  const [facts, setFacts] = useState<(AssessmentFacts & { readonly name: string }) | undefined>();
  const [faults, setFaults] = useState<readonly Fault[]>([]);
  const [busy, setBusy] = useState(false);
  useEffect(() => () => remote.current?.worker.terminate(), []);
  const calls = useCallback((): Remote<SizingWorker> => {
    if (!remote.current) {
      const worker = new Worker(new URL('./sizing-worker.ts', import.meta.url), { type: 'module' });
      remote.current = { worker, calls: wrap<SizingWorker>(worker) };
    }
    return remote.current.calls;
  }, []);
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
  return { facts, faults, busy, read, calls };
}

/** Advice on one machine. */
export function useSizing(question: Omit<SizingInput, 'means'>) {
  const { calls, ...recording } = useRecording();
  const { facts } = recording;
  const [advice, setAdvice] = useState<DrawnAdvice | undefined>();
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
  }, [calls, facts, processors, memoryBytes, baseMemoryBytes, sessions, seed]);
  return { ...recording, advice: facts ? advice : undefined };
}

/** Which of some sizes for so many people. */
export function useSizeChoice(question: Omit<SizeQuestion, 'means'>) {
  const { calls, ...recording } = useRecording();
  const { facts } = recording;
  const [answers, setAnswers] = useState<readonly SizeAnswer[] | undefined>();
  const asked = JSON.stringify(question);
  useEffect(() => {
    const parsed = JSON.parse(asked) as Omit<SizeQuestion, 'means'>;
    if (!facts || parsed.people < 1 || parsed.sizes.length === 0) return;
    let current = true;
    void calls()
      .choose(parsed)
      .then((found) => current && setAnswers(found));
    return () => {
      current = false;
    };
  }, [calls, facts, asked]);
  return { ...recording, answers: facts ? answers : undefined };
}
