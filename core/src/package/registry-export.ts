/** Registry text exports (`.reg`): the values they set, as inventory entries. */
import type { RegistryEntry } from '../inventory/entry.ts';
import { ok, refuse, type Result } from '../result.ts';

const headers: readonly [RegExp, Form][] = [
  [/^Windows Registry Editor Version 5\.00\s*$/, 'unicode'],
  [/^REGEDIT4\s*$/, 'ansi'],
];

/** The older form has strings in hex by bytes of the code page, the newer one by UTF-16. */
type Form = 'unicode' | 'ansi';

/** Of one value: a registry holds 1 MB at the most by its own advice, and text in hex is four times as long. */
const MAX_VALUE_CHARACTERS = 6_000_000;
/** Twice what the exports of a whole machine have. */
export const MAX_REGISTRY_VALUES = 2_000_000;

/**
 * Reads an export, given as its lines. Values are given as text: strings as they are, numbers in
 * decimal, several strings one a line, other bytes in hex. Names do not differ by case, and the
 * last value of a name counts, as when an export is read in. Lines that delete a key or value are
 * passed over, since an export of what is there has none. Errors name the line.
 */
export function parseRegistryExport(raw: Iterable<string>): Result<RegistryEntry[]> {
  const entries = new Map<string, RegistryEntry>();
  let form: Form | undefined;
  let key: string | undefined;
  for (const line of joinContinued(raw)) {
    const where = `line ${line.number}`;
    if (form === undefined) {
      form = headers.find(([pattern]) => pattern.test(line.text.replace(/^\uFEFF/, '')))?.[1];
      if (form === undefined) return refuse(where, 'is not the first line of a registry text export');
      continue;
    }
    if (line.text.length > MAX_VALUE_CHARACTERS)
      return refuse(where, 'is a value longer than a registry holds');
    const content = line.text.trim();
    if (content === '' || content.startsWith(';')) continue;
    const section = /^\[(-?)(.+)\]$/.exec(content);
    if (section) {
      key = section[1] === '-' ? undefined : section[2];
      continue;
    }
    const value = /^(@|"(?:[^"\\]|\\[^])*")\s*=\s*([^]*)$/.exec(content);
    if (!value) return refuse(where, 'is neither a key in brackets nor a value');
    if (key === undefined || value[2] === '-') continue;
    const read = readValue(value[2] ?? '', form);
    if (!read) return refuse(where, `has a value of an unknown form: ${(value[2] ?? '').slice(0, 40)}`);
    const name = value[1] === '@' ? '' : unquote(value[1] ?? '');
    const same = `${key}\0${name}`.toLowerCase();
    if (!entries.has(same) && entries.size >= MAX_REGISTRY_VALUES)
      return refuse(where, `is over the limit of ${MAX_REGISTRY_VALUES.toLocaleString('en-GB')} values`);
    entries.set(same, { kind: 'registry', key, name, ...read });
  }
  return form === undefined
    ? refuse('line 1', 'is not the first line of a registry text export')
    : ok([...entries.values()]);
}

interface Line {
  /** Of its first physical line, from 1. */
  readonly number: number;
  text: string;
}

/**
 * Lines as they are meant: a backslash at the end of a value in hex carries it on to the next, and
 * a string that is not closed goes on with its line break.
 */
function* joinContinued(raw: Iterable<string>): Generator<Line> {
  let open: (Line & { readonly as: 'hex' | 'text' }) | undefined;
  let number = 0;
  for (const withReturn of raw) {
    number++;
    const text = withReturn.endsWith('\r') ? withReturn.slice(0, -1) : withReturn;
    const before = open;
    if (before?.as === 'text') {
      before.text += `\n${text}`;
      if (!closesString(text) && before.text.length <= MAX_VALUE_CHARACTERS) continue;
      open = undefined;
      yield before;
      continue;
    }
    const continues = before ? /\\\s*$/.test(text) : /^[^[]*=\s*hex.*\\\s*$/i.test(text);
    const part = continues ? text.replace(/\\\s*$/, '') : text;
    const line = before ?? { number, text: '', as: 'hex' as const };
    line.text += before ? part.trim() : part;
    if (continues && line.text.length <= MAX_VALUE_CHARACTERS) open = line;
    else if (!before && opensString(text)) open = { number, text, as: 'text' };
    else {
      open = undefined;
      yield line;
    }
  }
  if (open) yield open;
}

/** A value whose string is not closed on its line. */
function opensString(text: string): boolean {
  const value = /^\s*(?:@|"(?:[^"\\]|\\.)*")\s*=\s*"(.*)$/.exec(text);
  return value !== null && !closesString(value[1] ?? '');
}

/** Whether a quote that is not escaped ends this part of a string. */
function closesString(part: string): boolean {
  return /^(?:[^"\\]|\\.)*"\s*$/.test(part);
}

const hexTypes: Record<string, string> = {
  '': 'REG_BINARY',
  '0': 'REG_NONE',
  '2': 'REG_EXPAND_SZ',
  '7': 'REG_MULTI_SZ',
  b: 'REG_QWORD',
};

function readValue(text: string, form: Form): { type: string; value: string } | undefined {
  if (/^"[^]*"$/.test(text)) return { type: 'REG_SZ', value: unquote(text) };
  const dword = /^dword:([0-9a-f]{1,8})$/i.exec(text);
  if (dword) return { type: 'REG_DWORD', value: String(parseInt(dword[1] ?? '0', 16)) };
  const hex = /^hex(?:\(([0-9a-f]+)\))?:((?:[0-9a-f]{2},?)*)$/i.exec(text.replaceAll(' ', ''));
  if (!hex) return undefined;
  const kind = (hex[1] ?? '').toLowerCase();
  const digits = (hex[2] ?? '').replaceAll(',', '').toLowerCase();
  const type = hexTypes[kind] ?? `REG_TYPE_${kind}`;
  if (kind !== '2' && kind !== '7') return { type, value: digits };
  const decoded = textOf(digits, form).replace(/\0+$/, '');
  return { type, value: decoded.replaceAll('\0', '\n') };
}

function textOf(digits: string, form: Form): string {
  const bytes = Uint8Array.from({ length: digits.length / 2 }, (_none, i) =>
    parseInt(digits.slice(2 * i, 2 * i + 2), 16),
  );
  return new TextDecoder(form === 'ansi' ? 'windows-1252' : 'utf-16le').decode(bytes);
}

function unquote(text: string): string {
  return text.slice(1, -1).replace(/\\([^])/g, '$1');
}
