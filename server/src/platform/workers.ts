/** The worker pool for heavy computation. */
import { fileURLToPath } from 'node:url';
import { Piscina } from 'piscina';

/**
 * Workers load JavaScript only, so the built file is named also when this runs from source;
 * from `src/` and from `dist/` the way is the same.
 */
export function workerFile(name: string): string {
  return fileURLToPath(new URL(`../../dist/${name}`, import.meta.url));
}

export function openWorkers(): Piscina {
  // No options of the parent are passed on: it may run from source, the workers never do.
  return new Piscina({ execArgv: [], minThreads: 0, maxThreads: 2, idleTimeout: 20_000 });
}
