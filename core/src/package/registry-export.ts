/** Registry text exports (`.reg`): the values they set, as inventory entries. */
import type { RegistryEntry } from '../image/inventory.ts';
import { ok, refuse, type Result } from '../result.ts';

const header = /^(Windows Registry Editor Version 5\.00|REGEDIT4)\s*$/;

/**
 * Reads an export. Values are given as text: strings as they are, numbers in decimal, several
 * strings one a line, other bytes in hex. Lines that delete a key or value are passed over, since
 * an export of what is there has none. Errors name the line.
 */
export function parseRegistryExport(text: string): Result<RegistryEntry[]> {
  const lines = joinContinued(text.replace(/^\uFEFF/, '').split(/\r?\n/));
  if (!header.test(lines[0]?.text ?? ''))
    return refuse('line 1', 'is not the first line of a registry text export');
  const entries: RegistryEntry[] = [];
  let key: string | undefined;
  for (const line of lines.slice(1)) {
    const content = line.text.trim();
    if (content === '' || content.startsWith(';')) continue;
    const section = /^\[(-?)(.+)\]$/.exec(content);
    if (section) {
      key = section[1] === '-' ? undefined : section[2];
      continue;
    }
    const value = /^(@|"(?:[^"\\]|\\.)*")\s*=\s*(.*)$/.exec(content);
    if (!value) return refuse(`line ${line.number}`, 'is neither a key in brackets nor a value');
    if (key === undefined || value[2] === '-') continue;
    const read = readValue(value[2] ?? '');
    if (!read)
      return refuse(
        `line ${line.number}`,
        `has a value of an unknown form: ${(value[2] ?? '').slice(0, 40)}`,
      );
    entries.push({ kind: 'registry', key, name: value[1] === '@' ? '' : unquote(value[1] ?? ''), ...read });
  }
  return ok(entries);
}

/** A backslash at the end of a line carries the value on to the next. */
function joinContinued(raw: readonly string[]): { number: number; text: string }[] {
  const lines: { number: number; text: string }[] = [];
  let open = false;
  raw.forEach((text, i) => {
    const continues = /^[^[]*=\s*hex.*\\\s*$/.test(text) || (open && /\\\s*$/.test(text));
    const part = continues ? text.replace(/\\\s*$/, '') : text;
    const last = lines.at(-1);
    if (open && last) last.text += part.trim();
    else lines.push({ number: i + 1, text: part });
    open = continues;
  });
  return lines;
}

const hexTypes: Record<string, string> = {
  '': 'REG_BINARY',
  '0': 'REG_NONE',
  '2': 'REG_EXPAND_SZ',
  '7': 'REG_MULTI_SZ',
  b: 'REG_QWORD',
};

function readValue(text: string): { type: string; value: string } | undefined {
  if (/^".*"$/.test(text)) return { type: 'REG_SZ', value: unquote(text) };
  const dword = /^dword:([0-9a-f]{1,8})$/i.exec(text);
  if (dword) return { type: 'REG_DWORD', value: String(parseInt(dword[1] ?? '0', 16)) };
  const hex = /^hex(?:\(([0-9a-f]+)\))?:((?:[0-9a-f]{2},?)*)$/i.exec(text.replaceAll(' ', ''));
  if (!hex) return undefined;
  const kind = (hex[1] ?? '').toLowerCase();
  const bytes = (hex[2] ?? '')
    .split(',')
    .filter(Boolean)
    .map((b) => parseInt(b, 16));
  const type = hexTypes[kind] ?? `REG_TYPE_${kind}`;
  if (kind === '2' || kind === '7') {
    const decoded = utf16(bytes).replace(/\0+$/, '');
    return { type, value: decoded.replaceAll('\0', '\n') };
  }
  return { type, value: bytes.map((b) => b.toString(16).padStart(2, '0')).join('') };
}

function utf16(bytes: readonly number[]): string {
  let text = '';
  for (let i = 0; i + 1 < bytes.length; i += 2)
    text += String.fromCharCode((bytes[i] ?? 0) | ((bytes[i + 1] ?? 0) << 8));
  return text;
}

function unquote(text: string): string {
  return text.slice(1, -1).replace(/\\(.)/g, '$1');
}
