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
  return new Piscina({ minThreads: 0, maxThreads: 2, idleTimeout: 20_000 });
}
