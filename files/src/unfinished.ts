/** What is being written and is of no use until it is whole: whoever ends the process early takes it away. */
import { rmSync } from 'node:fs';

const open = new Set<string>();

/** Notes a file or folder as unfinished; call what it gives once it is whole, or gone. */
export function unfinished(path: string): () => void {
  open.add(path);
  return () => open.delete(path);
}

/** Takes away everything that is unfinished. For the end of a process. */
export function removeUnfinished(): void {
  for (const path of open) rmSync(path, { recursive: true, force: true });
  open.clear();
}
