/** Computer names from a pattern with one counter, such as `WCL-RR-###`. */
import { ok, refuse, type Result } from '../result.ts';

/** NetBIOS names, which directories still demand of computer accounts, hold 15 characters. */
const MAX_LENGTH = 15;

export interface NamePlan {
  readonly names: readonly string[];
  /** The first name that is taken already. */
  readonly clash: string | undefined;
  /** All names that are taken already. */
  readonly clashes: readonly string[];
  /** Whether the last number needs more digits than the counter has. */
  readonly overflow: boolean;
}

export interface NameRequest {
  readonly pattern: string;
  /** Number of the first name. */
  readonly start: number;
  readonly count: number;
  /** Names of the directory and the hypervisor, any case. */
  readonly taken: Iterable<string>;
  /** Whether taken names are passed over and the next free ones used instead. */
  readonly skipTaken?: boolean;
}

/**
 * The names a pattern gives. Errors: no counter or more than one, a forbidden character, a name
 * over 15 characters, only digits, a hyphen at an end, a start below 0, a count below 1.
 */
export function planNames(request: NameRequest): Result<NamePlan> {
  const { pattern, start, count } = request;
  const fault = patternFault(pattern);
  if (fault) return refuse('pattern', fault);
  if (!Number.isInteger(start) || start < 0) return refuse('start', 'must be a whole number of at least 0');
  if (!Number.isInteger(count) || count < 1) return refuse('count', 'must be a whole number of at least 1');
  const counter = /#+/.exec(pattern)?.[0] ?? '#';
  const taken = new Set<string>();
  for (const name of request.taken) taken.add(name.toUpperCase());

  const names: string[] = [];
  const clashes: string[] = [];
  const last = 10 ** counter.length - 1;
  let number = start;
  for (; names.length < count && number <= start + count + taken.size; number++) {
    const name = pattern.replace(counter, String(number).padStart(counter.length, '0')).toUpperCase();
    if (taken.has(name)) {
      clashes.push(name);
      if (request.skipTaken) continue;
    }
    names.push(name);
  }
  return ok({ names, clash: clashes[0], clashes, overflow: number - 1 > last });
}

/**
 * Names from one number on that are free within the width of the counter; taken ones are passed
 * over. Errors as of `planNames`.
 */
export function freeNames({
  pattern,
  start,
  taken,
}: Omit<NameRequest, 'count' | 'skipTaken'>): Result<number> {
  const fault = patternFault(pattern);
  if (fault) return refuse('pattern', fault);
  if (!Number.isInteger(start) || start < 0) return refuse('start', 'must be a whole number of at least 0');
  const [before = '', counter = ''] = /^([^#]*)(#+)/.exec(pattern.toUpperCase())?.slice(1) ?? [];
  const after = pattern.toUpperCase().slice(before.length + counter.length);
  const all = 10 ** counter.length - start;
  const used = new Set<string>();
  for (const one of taken) {
    const name = one.toUpperCase();
    const digits = name.slice(before.length, name.length - after.length);
    const isOurs = name.length === pattern.length && name.startsWith(before) && name.endsWith(after);
    if (isOurs && /^\d+$/.test(digits) && Number(digits) >= start) used.add(name);
  }
  return ok(Math.max(0, all - used.size));
}

function patternFault(pattern: string): string | undefined {
  const counters = pattern.match(/#+/g) ?? [];
  if (counters.length === 0) return 'has no counter; put one # for each digit, such as WCL-RR-###';
  if (counters.length > 1) return 'has more than one counter; keep the # together';
  if (pattern.length > MAX_LENGTH) {
    return `makes names of ${pattern.length} characters; a computer name holds ${MAX_LENGTH}`;
  }
  const bad = /[^A-Za-z0-9#-]/.exec(pattern);
  if (bad) return `holds "${bad[0]}"; only letters, digits, hyphens and one counter are allowed`;
  if (/^-|-$/.test(pattern)) return 'must not begin or end with a hyphen';
  if (/^[0-9#]+$/.test(pattern)) return 'would make names of digits only; add a letter';
  return undefined;
}
