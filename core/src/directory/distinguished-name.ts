/**
 * Distinguished names of a directory: read in any notation that RFC 4514 allows (and the spaces,
 * semicolons and quotation marks of RFC 2253, section 4, which people paste), written in one.
 */
import { ok, refuse, type Fault, type Result } from '../result.ts';

/** An attribute and its value, such as OU and `Desks`. */
export interface NamePart {
  /** Upper case for the attributes that have a short name; dotted numbers for others. */
  readonly attribute: string;
  readonly value: string;
}

/** The parts of one level; more than one where a `+` joins them. */
export type Level = readonly NamePart[];

/** From the object itself up to the root. */
export type DistinguishedName = readonly Level[];

/** Longer ones are refused: no directory keeps them, and reading them costs time. */
const MOST_CHARACTERS = 2_000;

/** Short names of RFC 4514, section 3, by the numbers that may stand for them. */
const shortNames: Readonly<Record<string, string>> = {
  '2.5.4.3': 'CN',
  '2.5.4.6': 'C',
  '2.5.4.7': 'L',
  '2.5.4.8': 'ST',
  '2.5.4.9': 'STREET',
  '2.5.4.10': 'O',
  '2.5.4.11': 'OU',
  '0.9.2342.19200300.100.1.1': 'UID',
  '0.9.2342.19200300.100.1.25': 'DC',
};

/** Errors: empty, too long, an attribute without `=` or name, a broken escape, bytes that are no UTF-8. */
export function readDistinguishedName(text: string): Result<DistinguishedName> {
  if (text.trim() === '') return refuse('', 'is empty');
  if (text.length > MOST_CHARACTERS)
    return refuse('', `has over ${MOST_CHARACTERS.toLocaleString('en-GB')} characters`);
  const reader = new Reader(text);
  const levels: NamePart[][] = [[]];
  for (;;) {
    const part = reader.part();
    if (typeof part === 'string') return refuse('', part);
    levels.at(-1)?.push(part);
    const separator = reader.separator();
    if (separator === '') return ok(levels);
    if (separator === '+') continue;
    if (separator !== ',' && separator !== ';')
      return refuse('', `has "${separator}" where a comma should be`);
    levels.push([]);
  }
}

/** The one notation that is kept and compared: no spaces, least escapes. */
export function writeDistinguishedName(name: DistinguishedName): string {
  return name
    .map((level) => level.map(({ attribute, value }) => `${attribute}=${escaped(value)}`).join('+'))
    .join(',');
}

/** A name in the notation that is kept. Errors as of `readDistinguishedName`. */
export function canonicalName(text: string): Result<string, readonly Fault[]> {
  const name = readDistinguishedName(text);
  return name.ok ? ok(writeDistinguishedName(name.value)) : name;
}

/** By which two names are told to be the same: directories compare without regard to case. */
export function nameKey(name: DistinguishedName): string {
  return name
    .map((level) =>
      level
        .map(
          ({ attribute, value }) => `${attribute}=${escaped(value.trim().replace(/ +/g, ' ').toLowerCase())}`,
        )
        .sort()
        .join('+'),
    )
    .join(',');
}

/** Whether a name lies below another, or is it. */
export function isWithin(name: DistinguishedName, root: DistinguishedName): boolean {
  return name.length >= root.length && nameKey(name.slice(name.length - root.length)) === nameKey(root);
}

/** What lies one level up; nothing above the first level. */
export function parentOf(name: DistinguishedName): DistinguishedName | undefined {
  return name.length > 1 ? name.slice(1) : undefined;
}

/** An object named by its common name in a unit. */
export function below(attribute: 'CN' | 'OU', value: string, unit: DistinguishedName): DistinguishedName {
  return [[{ attribute, value }], ...unit];
}

/** RFC 4514, section 2.4. */
function escaped(value: string): string {
  return value
    .replace(/[",+;<>\\]/g, '\\$&')
    .replaceAll('\0', '\\00')
    .replace(/^[ #]/, '\\$&')
    .replace(/ $/, '\\ ');
}

const utf8 = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });

/** Goes through a name from left to right. Its methods give a sentence where something is wrong. */
class Reader {
  private at = 0;

  constructor(private readonly text: string) {}

  part(): NamePart | string {
    this.spaces();
    const attribute = /^(?:(?:[oO][iI][dD]\.)?\d+(?:\.\d+)+|[A-Za-z][A-Za-z0-9-]*)/.exec(
      this.text.slice(this.at),
    )?.[0];
    if (attribute === undefined) return this.missing();
    this.at += attribute.length;
    this.spaces();
    if (this.text[this.at] !== '=') return `has no "=" behind ${attribute}`;
    this.at++;
    this.spaces();
    const value = this.value();
    if ('fault' in value) return value.fault;
    if (value.read === '') return `has nothing behind ${attribute}=`;
    const plain = attribute.toUpperCase().replace(/^OID\./, '');
    return { attribute: shortNames[plain] ?? plain, value: value.read };
  }

  /** The character behind a part, past spaces; empty at the end. */
  separator(): string {
    this.spaces();
    return this.text[this.at++] ?? '';
  }

  private missing(): string {
    return this.at >= this.text.length
      ? 'ends where another part should be'
      : `has "${this.text.slice(this.at, this.at + 12)}" where a part such as OU=Desks should be`;
  }

  private value(): { readonly read: string } | { readonly fault: string } {
    if (this.text[this.at] === '#') return this.hexValue();
    const isQuoted = this.text[this.at] === '"';
    if (isQuoted) this.at++;
    const bytes: number[] = [];
    /** Where the value ends if only spaces follow. */
    let end = 0;
    for (;;) {
      const character = this.text[this.at];
      if (character === undefined) {
        if (isQuoted) return { fault: 'has a quotation mark that is never closed' };
        break;
      }
      if (isQuoted && character === '"') {
        this.at++;
        end = bytes.length;
        break;
      }
      if (!isQuoted && ',;+'.includes(character)) break;
      if (!isQuoted && '"<>'.includes(character))
        return { fault: `has a ${character} that needs a \\ before it` };
      if (character === '\\') {
        const escape = this.escape();
        if (escape === undefined) return { fault: 'ends in, or has, a \\ with nothing to escape' };
        bytes.push(...escape);
        end = bytes.length;
        continue;
      }
      const whole = String.fromCodePoint(this.text.codePointAt(this.at) ?? 0);
      this.at += whole.length;
      bytes.push(...new TextEncoder().encode(whole));
      if (isQuoted || whole !== ' ') end = bytes.length;
    }
    return decoded(bytes.slice(0, end));
  }

  /** A backslash with a special character, or with two hexadecimal digits that are one byte. */
  private escape(): number[] | undefined {
    const hex = /^\\([0-9A-Fa-f]{2})/.exec(this.text.slice(this.at, this.at + 3))?.[1];
    if (hex !== undefined) {
      this.at += 3;
      return [Number.parseInt(hex, 16)];
    }
    const special = this.text[this.at + 1];
    if (special === undefined || !' "#+,;<=>\\'.includes(special)) return undefined;
    this.at += 2;
    return [special.charCodeAt(0)];
  }

  /** The bytes of the value with their BER header: a string of a short form, as RFC 4514 writes unknown types. */
  private hexValue(): { readonly read: string } | { readonly fault: string } {
    const hex = /^#((?:[0-9A-Fa-f]{2})+)/.exec(this.text.slice(this.at))?.[1];
    if (hex === undefined) return { fault: 'has a # without pairs of hexadecimal digits' };
    this.at += hex.length + 1;
    const bytes = hex.match(/../g)?.map((pair) => Number.parseInt(pair, 16)) ?? [];
    const length = bytes[1] ?? -1;
    if (length > 127 || length !== bytes.length - 2)
      return { fault: 'has a # value whose length is not that of its bytes' };
    return decoded(bytes.slice(2));
  }

  private spaces(): void {
    while (this.text[this.at] === ' ') this.at++;
  }
}

function decoded(bytes: readonly number[]): { readonly read: string } | { readonly fault: string } {
  try {
    return { read: utf8.decode(Uint8Array.from(bytes)) };
  } catch {
    return { fault: 'has bytes that are no UTF-8' };
  }
}
