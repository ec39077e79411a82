import { readFileSync } from 'node:fs';

/**
 * The text of a registry export: UTF-16 with a byte order mark, or UTF-8; what is neither is in the
 * Western code page, as exports of the older form are.
 */
export function readRegistryText(path: string): string {
  const bytes = readFileSync(path);
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return bytes.toString('utf16le');
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder('windows-1252').decode(bytes);
  }
}
