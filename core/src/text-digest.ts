/** What a text is told by: its digest. */
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';

/** SHA-256 of a text as UTF-8, hex. */
export function textDigest(text: string): string {
  return bytesToHex(sha256(utf8ToBytes(text)));
}
