/** Ranges of IPv4 addresses in the notation of RFC 4632, such as `10.20.4.0/23`. */
import type { Fault, Result } from './result.ts';
import { ok, refuse } from './result.ts';

export interface NetworkRange {
  /** The first address, as a number of 32 bits. */
  readonly first: number;
  /** Bits that all its addresses share. */
  readonly prefix: number;
}

/** Whole ranges that are given out: smaller ones hold hardly a host, larger ones nobody fills. */
export const SMALLEST_PREFIX = 28;
export const LARGEST_PREFIX = 16;

/** Reads a range. Errors, at `range`: no address, no prefix, bits behind the prefix, not for machines of one's own. */
export function readRange(text: string): Result<NetworkRange> {
  const found = /^(\d{1,3})\.(\d{1,3})\.(\d{1,3})\.(\d{1,3})\/(\d{1,2})$/.exec(text.trim());
  if (!found) return refuse('range', 'must be an address and a prefix, such as 10.30.4.0/24');
  const parts = found.slice(1, 5).map(Number);
  if (parts.some((part) => part > 255)) return refuse('range', 'has a part over 255');
  const prefix = Number(found[5]);
  if (prefix > 32) return refuse('range', 'has a prefix over 32');
  const first = parts.reduce((sum, part) => sum * 256 + part, 0);
  const size = 2 ** (32 - prefix);
  if (first % size !== 0)
    return refuse(
      'range',
      `begins in the middle; the range around it is ${writeRange({ first: first - (first % size), prefix })}`,
    );
  return ok({ first, prefix });
}

export function writeRange({ first, prefix }: NetworkRange): string {
  const parts = [24, 16, 8, 0].map((bits) => Math.floor(first / 2 ** bits) % 256);
  return `${parts.join('.')}/${prefix}`;
}

/** Addresses for machines: all but its own, the broadcast's and the gateway's. */
export function machineAddresses({ prefix }: Pick<NetworkRange, 'prefix'>): number {
  return Math.max(0, 2 ** (32 - prefix) - 3);
}

export function overlap(a: NetworkRange, b: NetworkRange): boolean {
  const end = ({ first, prefix }: NetworkRange) => first + 2 ** (32 - prefix);
  return a.first < end(b) && b.first < end(a);
}

export interface NamedRange {
  readonly name: string;
  readonly range: string;
}

/** A network that is there, with where. */
export interface PlacedRange extends NamedRange {
  readonly site: string;
}

/** What is wrong with the networks of a new site, at `networks.<index>.name` and `.range`. */
export function networkFaults(wanted: readonly NamedRange[], there: readonly PlacedRange[]): Fault[] {
  const before: PlacedRange[] = [];
  return wanted.flatMap((network, i) => {
    const faults = [...nameFaults(network, before, i), ...rangeFaults(network, [...there, ...before], i)];
    before.push({ ...network, site: 'the same site' });
    return faults;
  });
}

function nameFaults({ name }: NamedRange, before: readonly NamedRange[], i: number): Fault[] {
  const path = `networks.${i}.name`;
  if (name.trim() === '') return [{ path, message: 'The name is empty' }];
  if (!/^[a-z0-9]+(-[a-z0-9]+)*$/.test(name))
    return [{ path, message: 'must be small letters, digits and single hyphens' }];
  return before.some((one) => one.name === name) ? [{ path, message: `${name} stands here twice` }] : [];
}

function rangeFaults({ range }: NamedRange, others: readonly PlacedRange[], i: number): Fault[] {
  const at = (message: string): Fault[] => [{ path: `networks.${i}.range`, message }];
  const read = readRange(range);
  if (!read.ok) return at(read.error[0]?.message ?? 'is no range');
  const { first, prefix } = read.value;
  if (prefix > SMALLEST_PREFIX)
    return at(`has room for ${machineAddresses(read.value)} machines; take /${SMALLEST_PREFIX} or larger`);
  if (prefix < LARGEST_PREFIX) return at(`is larger than anybody fills; take /${LARGEST_PREFIX} or smaller`);
  const top = Math.floor(first / 2 ** 24);
  if (top === 0 || top === 127 || top >= 224)
    return at('is not for machines: RFC 6890 keeps it for other things');
  const taken = others.find((other) => {
    const known = readRange(other.range);
    return known.ok && overlap(read.value, known.value);
  });
  return taken ? at(`overlaps ${taken.name} of ${taken.site}, ${taken.range}`) : [];
}
