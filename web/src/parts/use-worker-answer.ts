/** What a web worker makes of a question, asked anew whenever the question changes. */
import { wrap, type Remote } from 'comlink';
import { useEffect, useRef, useState } from 'react';

/** Undefined until the first answer is there; of a question that was overtaken nothing is heard. */
export function useWorkerAnswer<W, Question, Answer>(
  open: () => Worker,
  question: Question | undefined,
  ask: (calls: Remote<W>, question: Question) => PromiseLike<Answer>,
): Answer | undefined {
  const remote = useRef<{ worker: Worker; calls: Remote<W> }>(undefined);
  const [answer, setAnswer] = useState<Answer>();
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
      const worker = open();
      remote.current = { worker, calls: wrap<W>(worker) };
    }
    let current = true;
    void ask(remote.current.calls, JSON.parse(asked) as Question).then(
      (found) => current && setAnswer(found),
    );
    return () => {
      current = false;
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- how it is asked stays the same, only the question changes
  }, [asked]);
  return question ? answer : undefined;
}
