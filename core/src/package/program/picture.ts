/** Pictures that applications are shown with: ICO (a directory of pictures) and PNG (ISO/IEC 15948). */

export interface PictureFacts {
  readonly format: 'ico' | 'png';
  /** Each picture in it, in points. */
  readonly sizes: readonly { readonly width: number; readonly height: number }[];
  /** What is wrong or odd; empty when nothing is. */
  readonly fault: string;
}

const PNG = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];
const MOST_PICTURES = 64;
/** Below this it is blurred wherever it is shown large. */
const LARGE_ENOUGH = 48;

/** Reads a picture; nothing for what is neither. All of the file is given. */
export function readPicture(bytes: Uint8Array): PictureFacts | undefined {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (PNG.every((byte, i) => bytes[i] === byte))
    return judged('png', [pngSize(view, 0)], pngEnds(bytes) ? '' : 'is cut short');
  if (bytes.length < 6 || view.getUint32(0, true) !== 0x10000) return undefined;
  const count = view.getUint16(4, true);
  if (count === 0) return judged('ico', [], 'holds no picture');
  if (count > MOST_PICTURES) return judged('ico', [], `says that it holds ${count} pictures`);
  const sizes = [];
  for (let i = 0; i < count; i++) {
    const at = 6 + i * 16;
    if (at + 16 > bytes.length) return judged('ico', sizes, 'is cut short in its list of pictures');
    const [length, offset] = [view.getUint32(at + 8, true), view.getUint32(at + 12, true)];
    if (length < 24 || offset + length > bytes.length)
      return judged('ico', sizes, `is cut short: picture ${i + 1} lies outside of the file`);
    const isPng = PNG.every((byte, n) => bytes[offset + n] === byte);
    const said = { width: bytes[at] || 256, height: bytes[at + 1] || 256 };
    sizes.push(isPng ? pngSize(view, offset) : said);
  }
  return judged('ico', sizes, '');
}

/** The last chunk is empty and named IEND, between its length and its sum. */
function pngEnds(bytes: Uint8Array): boolean {
  return [0x49, 0x45, 0x4e, 0x44].every((letter, i) => bytes[bytes.length - 8 + i] === letter);
}

function pngSize(view: DataView, offset: number): { width: number; height: number } {
  if (offset + 24 > view.byteLength) return { width: 0, height: 0 };
  return { width: view.getUint32(offset + 16), height: view.getUint32(offset + 20) };
}

function judged(format: PictureFacts['format'], sizes: PictureFacts['sizes'], broken: string): PictureFacts {
  if (broken) return { format, sizes, fault: broken };
  const odd = sizes.find((one) => one.width !== one.height || one.width === 0);
  if (odd) return { format, sizes, fault: `is not square: ${odd.width} × ${odd.height}` };
  const largest = Math.max(...sizes.map((one) => one.width));
  const fault =
    largest < LARGE_ENOUGH ? `is ${largest} points wide at most, and blurred where it is shown larger` : '';
  return { format, sizes, fault };
}
