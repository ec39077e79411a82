/** The version resource of a program: nested blocks of a length, a name and a value, all UTF-16 (PE/COFF, VS_VERSIONINFO). */

/** What it says in its first language; empty where it says nothing. */
export interface VersionFacts {
  readonly product: string;
  readonly company: string;
  readonly description: string;
  readonly productVersion: string;
  readonly fileVersion: string;
}

interface Block {
  readonly name: string;
  /** Where its value begins and how long it is, bytes. */
  readonly value: number;
  readonly valueBytes: number;
  readonly end: number;
}

const MOST_DEPTH = 4;

/** Reads the texts of a version resource; what is cut short gives what was read up to there. */
export function readVersionResource(bytes: Uint8Array): VersionFacts {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const texts = new Map<string, string>();
  walk(view, 0, view.byteLength, 0, texts);
  const text = (name: string) => texts.get(name) ?? '';
  return {
    product: text('ProductName'),
    company: text('CompanyName'),
    description: text('FileDescription'),
    productVersion: text('ProductVersion'),
    fileVersion: text('FileVersion'),
  };
}

/** Root, then `StringFileInfo`, then a table for each language, then the texts. */
function walk(view: DataView, from: number, to: number, depth: number, texts: Map<string, string>): void {
  for (let at = from; at + 6 < to;) {
    const block = blockAt(view, at, to);
    if (!block) return;
    if (depth === MOST_DEPTH - 1) {
      if (!texts.has(block.name)) texts.set(block.name, textAt(view, block.value, block.valueBytes));
    } else if (depth !== 1 || block.name === 'StringFileInfo')
      walk(view, aligned(block.value + block.valueBytes), block.end, depth + 1, texts);
    at = aligned(block.end);
  }
}

function blockAt(view: DataView, at: number, limit: number): Block | undefined {
  const length = view.getUint16(at, true);
  const isText = view.getUint16(at + 4, true) === 1;
  const end = at + length;
  if (length < 8 || end > limit) return undefined;
  let name = '';
  let next = at + 6;
  for (; next + 2 <= end; next += 2) {
    const unit = view.getUint16(next, true);
    if (unit === 0) break;
    name += String.fromCharCode(unit);
  }
  const value = aligned(next + 2);
  // The length of a text counts letters, that of anything else bytes.
  const valueBytes = Math.min(view.getUint16(at + 2, true) * (isText ? 2 : 1), Math.max(0, end - value));
  return { name, value, valueBytes, end };
}

function textAt(view: DataView, at: number, length: number): string {
  let text = '';
  for (let i = at; i + 2 <= at + length; i += 2) {
    const unit = view.getUint16(i, true);
    if (unit === 0) break;
    text += String.fromCharCode(unit);
  }
  return text.trim();
}

function aligned(at: number): number {
  return (at + 3) & ~3;
}
