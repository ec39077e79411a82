/** How the datastores of a draft fill, worked out in a web worker whenever the draft changes. */
import { useWorkerAnswer } from '../../parts/use-worker-answer.ts';
import type { Filling, FillingQuestion, FillingWorker } from './filling-worker.ts';

const open = () => new Worker(new URL('./filling-worker.ts', import.meta.url), { type: 'module' });

/** Undefined until the first answer is there. */
export function useFilling(question: FillingQuestion | undefined): Filling | undefined {
  return useWorkerAnswer<FillingWorker, FillingQuestion, Filling>(open, question, (calls, asked) =>
    calls.fill(asked),
  );
}
