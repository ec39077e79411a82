/** Streams of bytes in pieces of one size. */

/** The same bytes in pieces of `piece` bytes, the last one shorter. Copies only where pieces meet. */
export async function* inPieces(bytes: AsyncIterable<Uint8Array>, piece: number): AsyncGenerator<Uint8Array> {
  let parts: Uint8Array[] = [];
  let held = 0;
  for await (const chunk of bytes) {
    for (let from = 0; from < chunk.length;) {
      const part = chunk.subarray(from, from + piece - held);
      parts.push(part);
      held += part.length;
      from += part.length;
      if (held < piece) continue;
      yield joined(parts);
      parts = [];
      held = 0;
    }
  }
  if (held > 0) yield joined(parts);
}

/** Several stretches of bytes as one. */
export function joined(parts: readonly Uint8Array[]): Uint8Array {
  const [only] = parts;
  if (only && parts.length === 1) return only;
  const whole = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}
