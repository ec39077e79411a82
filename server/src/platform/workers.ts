/** The worker pools for heavy computation, and how work is handed to them. */
import { fileURLToPath } from 'node:url';
import type { TransferListItem } from 'node:worker_threads';
import { Piscina } from 'piscina';

/**
 * Workers load JavaScript only, so the built file is named also when this runs from source;
 * from `src/` and from `dist/` the way is the same.
 */
export function workerFile(name: string): string {
  return fileURLToPath(new URL(`../../dist/${name}`, import.meta.url));
}

export interface Workers {
  /** For what we made ourselves: forecasts, comparisons, containers. */
  readonly own: Piscina;
  /** For what comes from outside: it may take all of its time and memory, and others go on. */
  readonly intake: Piscina;
  close(): Promise<void>;
}

/** A worker that reads uploads ends here instead of taking the memory of the server. */
const INTAKE_HEAP_MB = 512;

export function openWorkers(): Workers {
  // No options of the parent are passed on: it may run from source, the workers never do.
  const common = { execArgv: [], minThreads: 0, idleTimeout: 20_000 };
  const own = new Piscina({ ...common, maxThreads: 2 });
  const intake = new Piscina({
    ...common,
    maxThreads: 1,
    resourceLimits: { maxOldGenerationSizeMb: INTAKE_HEAP_MB },
  });
  return {
    own,
    intake,
    close: async () => {
      await Promise.all([own.destroy(), intake.destroy()]);
    },
  };
}

/** How a piece of work is handed over. */
export interface RunOptions {
  /** Ends the thread that does it when it fires. */
  readonly signal?: AbortSignal;
  readonly transferList?: readonly TransferListItem[];
}

// eslint-disable-next-line @typescript-eslint/no-explicit-any -- a function of any arguments
type Of<F> = F extends (task: infer T, ...rest: any[]) => infer R ? { task: T; answer: Awaited<R> } : never;
type Functions = Record<string, unknown>;

/**
 * Calls functions of a worker file as if they were here:
 * `workOf<typeof import('./x-worker.ts')>('x-worker.js')`. Which pool it runs in says whose data it reads.
 */
export function workOf<M extends Functions>(file: string, pool: 'own' | 'intake' = 'own') {
  return <N extends keyof M & string>(
    { workers }: { readonly workers: Workers },
    name: N,
    task: Of<M[N]>['task'],
    options: RunOptions = {},
  ): Promise<Of<M[N]>['answer']> =>
    workers[pool].run(task, { ...options, filename: workerFile(file), name } as object) as Promise<
      Of<M[N]>['answer']
    >;
}
