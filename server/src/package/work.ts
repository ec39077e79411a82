/** Hands heavy work on packages to the worker pool; each piece is a function of one of the two worker files. */
import type { Piscina } from 'piscina';
import type { Parts } from '../platform/parts.ts';
import { workerFile } from '../platform/workers.ts';
import type * as captureFunctions from './capture-worker.ts';
import type * as containerFunctions from './container-worker.ts';

type Workers = Pick<Parts, 'workers'>;
type RunOptions = Omit<NonNullable<Parameters<Piscina['run']>[1]>, 'filename' | 'name'>;
// eslint-disable-next-line @typescript-eslint/no-explicit-any -- a function of any arguments
type Of<F> = F extends (task: infer T, ...rest: any[]) => infer R ? { task: T; answer: Awaited<R> } : never;
type Functions = Record<string, unknown>;

function workOf<M extends Functions>(file: string) {
  return <N extends keyof M & string>(
    { workers }: Workers,
    name: N,
    task: Of<M[N]>['task'],
    options: RunOptions = {},
  ): Promise<Of<M[N]>['answer']> =>
    workers.run(task, { filename: workerFile(file), name, ...options }) as Promise<Of<M[N]>['answer']>;
}

export const captureWork = workOf<typeof captureFunctions>('package/capture-worker.js');
export const containerWork = workOf<typeof containerFunctions>('package/container-worker.js');
