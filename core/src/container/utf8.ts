import { ContainerFault } from './bytes.ts';

const strict = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });

/** Bytes as UTF-8. Throws `ContainerFault` for what is none: a name that is shown as another is lost. */
export function utf8Text(bytes: Uint8Array, what: string): string {
  try {
    return strict.decode(bytes);
  } catch {
    const shown = new TextDecoder().decode(bytes);
    throw new ContainerFault(`has ${what} that is no UTF-8: ${JSON.stringify(shown)}`);
  }
}
