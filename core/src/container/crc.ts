/** Cyclic redundancy checks of 32 bits, reflected (ISO 3309 for GPT, Castagnoli for VHDX). */

function table(polynomial: number): Uint32Array {
  return Uint32Array.from({ length: 256 }, (_none, byte) => {
    let value = byte;
    for (let bit = 0; bit < 8; bit++) value = value & 1 ? (value >>> 1) ^ polynomial : value >>> 1;
    return value >>> 0;
  });
}

function crc(entries: Uint32Array, bytes: Uint8Array): number {
  let value = 0xffffffff;
  for (const byte of bytes) value = (value >>> 8) ^ (entries[(value ^ byte) & 0xff] ?? 0);
  return ~value >>> 0;
}

const iso = table(0xedb88320);
const castagnoli = table(0x82f63b78);

/** CRC-32 of ISO 3309, as zlib and GPT have it. */
export function crc32(bytes: Uint8Array): number {
  return crc(iso, bytes);
}

/** CRC-32C (RFC 3720, appendix B.4), as VHDX has it. */
export function crc32c(bytes: Uint8Array): number {
  return crc(castagnoli, bytes);
}
