/** How the datastores of a draft fill, worked out in a web worker whenever the draft changes. */
import { wrap, type Remote } from 'comlink';
import { useEffect, useRef, useState } from 'react';
import type { Filling, FillingQuestion, FillingWorker } from './filling-worker.ts';

/** Undefined until the first answer is there; of a question that was overtaken nothing is heard. */
export function useFilling(question: FillingQuestion | undefined): Filling | undefined {
  const remote = useRef<{ worker: Worker; calls: Remote<FillingWorker> }>(undefined);
  const [answer, setAnswer] = useState<Filling>();
  useEffect(
    () => () => {
      remote.current?.worker.terminate();
      remote.current = undefined;
    },
    [],
  );
  const asked = JSON.stringify(question);
  useEffect(() => {
    if (asked === undefined) return;
    if (!remote.current) {
      const worker = new Worker(new URL('./filling-worker.ts', import.meta.url), { type: 'module' });
      remote.current = { worker, calls: wrap<FillingWorker>(worker) };
    }
    let current = true;
    void remote.current.calls
      .fill(JSON.parse(asked) as FillingQuestion)
      .then((filling) => current && setAnswer(filling));
    return () => {
      current = false;
    };
  }, [asked]);
  return question ? answer : undefined;
}
