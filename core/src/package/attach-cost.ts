/**
 * What attaching a container costs a host and the share: as it was measured on a host, else worked
 * out from its size. Opening a container takes a few reads; then tables and programs are read as
 * far as they are needed, in pieces.
 */

export interface AttachCost {
  /** Reads on the share. */
  readonly operations: number;
  readonly mountMs: number;
  readonly registerMs: number;
}

/** Reads to open a container, and bytes that each further read stands for. */
const OPENING_READS = 12;
const BYTES_A_READ = 400_000;
/** Milliseconds of a read on a share that is not busy, and of registering an entry point. */
const MS_A_READ = 3.2;
const REGISTER_MS = 35;

export function attachCost(
  containerBytes: number,
  entryPoints: number,
  measured: AttachCost | null,
): AttachCost {
  if (measured) {
    const { operations, mountMs, registerMs } = measured;
    return { operations, mountMs, registerMs };
  }
  const operations = OPENING_READS + Math.ceil(containerBytes / BYTES_A_READ);
  return {
    operations,
    mountMs: Math.round(operations * MS_A_READ),
    registerMs: entryPoints * REGISTER_MS,
  };
}
