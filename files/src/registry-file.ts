import { readFileSync } from 'node:fs';

/** The text of a registry export, which is UTF-16 with a byte order mark or else UTF-8. */
export function readRegistryText(path: string): string {
  const bytes = readFileSync(path);
  return bytes[0] === 0xff && bytes[1] === 0xfe ? bytes.toString('utf16le') : bytes.toString('utf8');
}
