/** Base64 (RFC 4648, section 4), in browser and server alike. */

export function toBase64(bytes: Uint8Array): string {
  let binary = '';
  for (const byte of bytes) binary += String.fromCharCode(byte);
  return btoa(binary);
}

/** The bytes; nothing where it is no base64. */
export function fromBase64(text: string): Uint8Array | undefined {
  if (!/^(?:[A-Za-z0-9+/]{4})*(?:[A-Za-z0-9+/]{2}==|[A-Za-z0-9+/]{3}=)?$/.test(text)) return undefined;
  return Uint8Array.from(atob(text), (character) => character.charCodeAt(0));
}
