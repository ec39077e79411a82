/** Days of a pool tried out in a web worker whenever its rules change. */
import type { DayAnswer, DayQuestion, DayWorker } from './day-worker.ts';
import { useWorkerAnswer } from '../../parts/use-worker-answer.ts';

const open = () => new Worker(new URL('./day-worker.ts', import.meta.url), { type: 'module' });

/** Undefined until the first answer is there. */
export function useDay(question: DayQuestion | undefined): DayAnswer | undefined {
  return useWorkerAnswer<DayWorker, DayQuestion, DayAnswer>(open, question, (calls, asked) =>
    calls.tryOut(asked),
  );
}
