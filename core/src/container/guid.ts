/** GUIDs as disk formats store them: the first three fields little-endian. */

/** The sixteen bytes of a GUID in text. */
export function guidBytes(text: string): Uint8Array {
  const hex = text.replaceAll('-', '');
  const plain = Uint8Array.from({ length: 16 }, (_none, i) => parseInt(hex.slice(i * 2, i * 2 + 2), 16));
  return swapped(plain);
}

/** The reverse, in capitals. */
export function guidText(bytes: Uint8Array): string {
  const hex = [...swapped(bytes)].map((byte) => byte.toString(16).padStart(2, '0')).join('');
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)]
    .join('-')
    .toUpperCase();
}

/** A GUID from a digest in hex: version 8 of RFC 9562, so the same content has the same one. */
export function guidFromDigest(digest: string): string {
  const third = `8${digest.slice(13, 16)}`;
  const fourth = `${(8 + (parseInt(digest[16] ?? '0', 16) & 3)).toString(16)}${digest.slice(17, 20)}`;
  return `${digest.slice(0, 8)}-${digest.slice(8, 12)}-${third}-${fourth}-${digest.slice(20, 32)}`;
}

function swapped(bytes: Uint8Array): Uint8Array {
  const order = [3, 2, 1, 0, 5, 4, 7, 6, 8, 9, 10, 11, 12, 13, 14, 15];
  return Uint8Array.from(order, (from) => bytes[from] ?? 0);
}
