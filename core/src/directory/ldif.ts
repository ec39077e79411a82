/**
 * LDIF content records (RFC 2849): read with continuation lines, comments and base64; written so
 * that other directories take them. Change records are refused by name: what they do to a
 * directory cannot be told from them alone.
 */
import { fromBase64, toBase64 } from './base64.ts';
import type { Fault, Result } from '../result.ts';

/** Text, or bytes that are no UTF-8, such as a picture. */
export type LdifValue = string | Uint8Array;

export interface LdifRecord {
  readonly dn: string;
  /** In the order of the text; names as they were written. */
  readonly attributes: readonly (readonly [name: string, value: LdifValue])[];
  /** Line on which it begins, from 1. */
  readonly line: number;
}

export interface LdifFault extends Fault {
  readonly line: number;
}

/** A directory of 50,000 people exports in some 20 MB. */
export const MOST_LDIF_BYTES = 50_000_000;
/** Whoever broke ten thousand lines is told of the first ones. */
const MOST_FAULTS = 50;
/** RFC 2849 leaves it open; lines this long are what other tools write. */
const LINE = 76;

interface LogicalLine {
  readonly text: string;
  readonly line: number;
}

/** Reads content records. Errors, each with its line: no LDIF, change records, addresses of other files, broken base64. */
export function readLdif(text: string): Result<readonly LdifRecord[], readonly LdifFault[]> {
  const faults: LdifFault[] = [];
  const records: LdifRecord[] = [];
  const groups = grouped(unfolded(text, faults));
  for (const [i, group] of groups.entries()) {
    const lines = i === 0 ? withoutVersion(group, faults) : group;
    const record = lines.length > 0 ? recordOf(lines, faults) : undefined;
    if (record) records.push(record);
    if (faults.length >= MOST_FAULTS) break;
  }
  return faults.length > 0
    ? { ok: false, error: faults.slice(0, MOST_FAULTS) }
    : { ok: true, value: records };
}

/** Writes content records; `readLdif` gives the same back. */
export function writeLdif(records: readonly Omit<LdifRecord, 'line'>[]): string {
  const texts = records.map(({ dn, attributes }) =>
    [['dn', dn] as const, ...attributes].map(([name, value]) => folded(written(name, value))).join(''),
  );
  // The line of the version may be left out, and some readers take it for a record.
  return texts.join('\n');
}

/** RFC 2849: a value is plain when it is printable ASCII and does not begin with a space, a colon or a `<`, nor end in a space. */
function written(name: string, value: LdifValue): string {
  if (typeof value !== 'string') return `${name}:: ${toBase64(value)}`;
  const isSafe = /^(?:[\x21-\x39\x3b\x3d-\x7e][\x20-\x7e]*)?$/.test(value) && !value.endsWith(' ');
  return isSafe ? `${name}: ${value}` : `${name}:: ${toBase64(new TextEncoder().encode(value))}`;
}

function folded(line: string): string {
  if (line.length <= LINE) return `${line}\n`;
  const pieces = [line.slice(0, LINE)];
  for (let at = LINE; at < line.length; at += LINE - 1) pieces.push(` ${line.slice(at, at + LINE - 1)}`);
  return `${pieces.join('\n')}\n`;
}

/** Lines with their continuations, without comments; empty ones stay, since they end a record. */
function unfolded(text: string, faults: LdifFault[]): LogicalLine[] {
  const lines: { parts: string[]; line: number }[] = [];
  for (const [i, raw] of text
    .replace(/^\ufeff/, '')
    .split(/\r?\n/)
    .entries()) {
    const last = lines.at(-1);
    if (!raw.startsWith(' ')) lines.push({ parts: [raw], line: i + 1 });
    else if (last && last.parts[0] !== '') last.parts.push(raw.slice(1));
    else faults.push({ line: i + 1, path: '', message: 'continues a line, but there is none before it' });
  }
  return lines
    .map(({ parts, line }) => ({ text: parts.join(''), line }))
    .filter((line) => !line.text.startsWith('#'));
}

function grouped(lines: readonly LogicalLine[]): LogicalLine[][] {
  const groups: LogicalLine[][] = [[]];
  for (const line of lines)
    if (line.text === '') groups.push([]);
    else groups.at(-1)?.push(line);
  return groups.filter((group) => group.length > 0);
}

function withoutVersion(lines: readonly LogicalLine[], faults: LdifFault[]): readonly LogicalLine[] {
  const [first, ...rest] = lines;
  const version = /^version:\s*(.*)$/i.exec(first?.text ?? '')?.[1];
  if (first === undefined || version === undefined) return lines;
  if (version.trim() !== '1')
    faults.push({ line: first.line, path: 'version', message: `is ${version}; only version 1 is known` });
  return rest;
}

function recordOf(lines: readonly LogicalLine[], faults: LdifFault[]): LdifRecord | undefined {
  const pairs = lines.map((line) => pairOf(line, faults));
  const [first] = lines;
  const [dn, ...attributes] = pairs;
  if (!first || !dn || pairs.includes(undefined)) return undefined;
  if (dn[0].toLowerCase() !== 'dn') {
    faults.push({ line: first.line, path: '', message: `begins with ${dn[0]}; a record begins with its dn` });
    return undefined;
  }
  if (typeof dn[1] !== 'string') {
    faults.push({ line: first.line, path: 'dn', message: 'has bytes that are no UTF-8' });
    return undefined;
  }
  const known = attributes.filter((pair) => pair !== undefined);
  const change = known.findIndex(([name]) => ['changetype', 'control'].includes(name.toLowerCase()));
  if (change >= 0) {
    faults.push({
      line: lines[change + 1]?.line ?? first.line,
      path: 'changetype',
      message: 'is a change record; export the entries themselves',
    });
    return undefined;
  }
  return { dn: dn[1], attributes: known, line: first.line };
}

function pairOf({ text, line }: LogicalLine, faults: LdifFault[]): [string, LdifValue] | undefined {
  const found =
    /^([A-Za-z][A-Za-z0-9-]*(?:;[A-Za-z0-9-]+)*|\d+(?:\.\d+)*(?:;[A-Za-z0-9-]+)*):([:<]?) *(.*)$/s.exec(text);
  const say = (path: string, message: string) => {
    faults.push({ line, path, message });
    return undefined;
  };
  if (!found) return say('', 'is not an attribute, a colon and a value');
  const [, name = '', sign, value = ''] = found;
  if (sign === '<') return say(name, 'points to another file, which is not read');
  if (sign === '') return [name, value];
  const bytes = fromBase64(value.trim());
  if (bytes === undefined) return say(name, 'is not base64');
  try {
    return [name, new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes)];
  } catch {
    return [name, bytes];
  }
}
