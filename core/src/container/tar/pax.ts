/** Records of an extended header: `<length> <key>=<value>\n`, the values of attributes any bytes. */
import { ContainerFault } from '../bytes.ts';
import type { ExtendedAttribute } from '../tree.ts';
import { utf8Text } from '../utf8.ts';
import { ATTRIBUTE_KEY } from './format.ts';

/** What extended headers say of an entry; of several, the last counts. */
export interface PaxFacts {
  readonly path?: string;
  readonly target?: string;
  readonly size?: number;
  readonly user?: number;
  readonly group?: number;
  readonly date?: { readonly modified: number; readonly nanos: number };
  readonly attributes?: ReadonlyMap<string, Uint8Array>;
  /** A sparse file of the GNU kind: what is stored is not its content. */
  readonly isSparse?: boolean;
}

/** Throws `ContainerFault` for records that are none. */
export function readPax(body: Uint8Array): PaxFacts {
  const facts: PaxFacts = {};
  const attributes = new Map<string, Uint8Array>();
  for (const [key, value] of recordsIn(body))
    if (key.startsWith(ATTRIBUTE_KEY)) attributes.set(key.slice(ATTRIBUTE_KEY.length), value);
    else Object.assign(facts, factOf(key, value));
  return attributes.size === 0 ? facts : { ...facts, attributes };
}

/** The attributes, by name in byte order. */
export function attributesOf(facts: PaxFacts): ExtendedAttribute[] {
  return [...(facts.attributes ?? [])]
    .map(([name, value]) => ({ name, value }))
    .sort((a, b) => (a.name < b.name ? -1 : 1));
}

function* recordsIn(body: Uint8Array): Generator<[string, Uint8Array]> {
  for (let at = 0; at < body.length;) {
    const space = body.indexOf(0x20, at);
    const length =
      space < 0 || space - at > 8 ? NaN : Number(String.fromCharCode(...body.subarray(at, space)));
    const end = at + length;
    const equals = body.indexOf(0x3d, space);
    if (!(end <= body.length) || equals < 0 || equals >= end || body[end - 1] !== 0x0a)
      throw new ContainerFault('has an extended header of a tar entry that is none');
    yield [
      utf8Text(body.subarray(space + 1, equals), 'a key of an extended header'),
      // A copy, since the bytes are a part of some larger piece that is given up.
      new Uint8Array(body.subarray(equals + 1, end - 1)),
    ];
    at = end;
  }
}

function factOf(key: string, value: Uint8Array): PaxFacts {
  if (key.startsWith('GNU.sparse')) return { isSparse: true };
  switch (key) {
    case 'path':
      return { path: utf8Text(value, 'a name') };
    case 'linkpath':
      return { target: utf8Text(value, 'a target of a link') };
    case 'size':
      return { size: wholeNumber(key, value) };
    case 'uid':
      return { user: wholeNumber(key, value) };
    case 'gid':
      return { group: wholeNumber(key, value) };
    case 'mtime':
      return { date: dateIn(value) };
    default:
      return {};
  }
}

function wholeNumber(key: string, value: Uint8Array): number {
  const text = utf8Text(value, 'a number');
  if (!/^\d{1,15}$/.test(text))
    throw new ContainerFault(`has ${key}=${JSON.stringify(text)} in an extended header`);
  return Number(text);
}

/** Decimal seconds, with a minus before 1970; rounded down to whole ones, and the rest in nanoseconds. */
function dateIn(value: Uint8Array): { modified: number; nanos: number } {
  const text = utf8Text(value, 'a number');
  const match = /^(-?)(\d{1,15})(?:\.(\d*))?$/.exec(text);
  if (!match) throw new ContainerFault(`has mtime=${JSON.stringify(text)} in an extended header`);
  const whole = Number(match[2]);
  const part = Number((match[3] ?? '').slice(0, 9).padEnd(9, '0'));
  if (!match[1]) return { modified: whole, nanos: part };
  return part === 0 ? { modified: 0 - whole, nanos: 0 } : { modified: -whole - 1, nanos: 1e9 - part };
}
