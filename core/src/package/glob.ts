/**
 * Globs over paths: `*` and `?` within a part, `**` over parts, `[a-z]`, `[!a-z]`, `{one,other}`, a
 * backslash before what is meant as it is. Case does not count. However a glob is written, matching
 * takes at the most its length times that of the path: people write them, and they run on every
 * entry of a capture.
 */
import { ok, refuse, type Result } from '../result.ts';

/** A path as globs look at it: in lower case, whole and by its parts, which are made when one asks. */
export class MatchedPath {
  readonly text: string;
  private split: readonly string[] | undefined;

  constructor(path: string) {
    this.text = path.toLowerCase();
  }

  get parts(): readonly string[] {
    return (this.split ??= this.text.split('/'));
  }
}

/** `any` is `*`. */
type Token = { readonly one: (char: string) => boolean; readonly literal?: string } | 'any';
/** A part without wildcards is a text; most are. */
type Part = string | readonly Token[] | typeof DEEP;

/** `**` alone in its part. */
const DEEP = Symbol('deep');

const MOST_CHARACTERS = 1_000;
/** Braces beside each other multiply. */
const MOST_ALTERNATIVES = 64;

/** Compiles a glob. Errors: a bracket or brace that is not closed, too long, too many alternatives. */
export function compileGlob(glob: string): Result<(path: MatchedPath) => boolean> {
  if (glob.length > MOST_CHARACTERS) return refuse('', `is longer than ${MOST_CHARACTERS} letters`);
  const alternatives = expandBraces(glob.toLowerCase());
  if (alternatives === undefined) return refuse('', 'has a brace that is not closed');
  if (alternatives.length > MOST_ALTERNATIVES)
    return refuse('', `stands for more than ${MOST_ALTERNATIVES} globs by its braces`);
  const compiled: { readonly parts: readonly Part[]; readonly needle: string }[] = [];
  for (const alternative of alternatives) {
    const parts = alternative.split('/').map(compilePart);
    if (parts.includes(undefined)) return refuse('', 'has a bracket that is not closed');
    compiled.push({ parts: parts as Part[], needle: longestText(parts as Part[]) });
  }
  // Nearly all paths lack the text that a glob holds, which is found out much quicker than matching takes.
  return ok((path) =>
    compiled.some(({ parts, needle }) => path.text.includes(needle) && matchParts(parts, path.parts)),
  );
}

/** `a{b,c}` as `ab` and `ac`; undefined where a brace is not closed. Braces in braces are not told apart. */
function expandBraces(glob: string): string[] | undefined {
  let texts = [''];
  for (let at = 0; at < glob.length;) {
    const open = indexOfUnescaped(glob, '{', at);
    const plain = glob.slice(at, open < 0 ? undefined : open);
    texts = texts.map((text) => text + plain);
    if (open < 0) break;
    const close = indexOfUnescaped(glob, '}', open);
    if (close < 0) return undefined;
    const choices = glob.slice(open + 1, close).split(',');
    if (texts.length * choices.length > MOST_ALTERNATIVES)
      return Array.from({ length: MOST_ALTERNATIVES + 1 }, () => '');
    texts = texts.flatMap((text) => choices.map((choice) => text + choice));
    at = close + 1;
  }
  return texts;
}

function indexOfUnescaped(text: string, char: string, from: number): number {
  for (let i = from; i < text.length; i++) {
    if (text[i] === '\\') i++;
    else if (text[i] === char) return i;
  }
  return -1;
}

function compilePart(text: string): Part | undefined {
  if (text === '**') return DEEP;
  if (!/[*?[\\]/.test(text)) return text;
  const tokens: Token[] = [];
  for (let i = 0; i < text.length; i++) {
    const char = text[i] as string;
    if (char === '*') {
      if (tokens.at(-1) !== 'any') tokens.push('any');
    } else if (char === '?') tokens.push({ one: () => true });
    else if (char === '[') {
      const close = text.indexOf(']', i + 2);
      if (close < 0) return undefined;
      tokens.push({ one: classOf(text.slice(i + 1, close)) });
      i = close;
    } else {
      const meant = char === '\\' ? (text[++i] ?? char) : char;
      tokens.push({ one: (other) => other === meant, literal: meant });
    }
  }
  return tokens;
}

/** The longest text that any path must hold which matches. */
function longestText(parts: readonly Part[]): string {
  const texts = parts.flatMap((part) => {
    if (typeof part === 'string') return [part];
    if (part === DEEP) return [];
    return part
      .map((token) => (token === 'any' ? '\0' : (token.literal ?? '\0')))
      .join('')
      .split('\0');
  });
  return texts.reduce((longest, text) => (text.length > longest.length ? text : longest), '');
}

function classOf(text: string): (char: string) => boolean {
  const isNot = text.startsWith('!') || text.startsWith('^');
  const chars = isNot ? text.slice(1) : text;
  const ranges: [string, string][] = [];
  for (let i = 0; i < chars.length; i++) {
    const from = chars[i] as string;
    const isRange = chars[i + 1] === '-' && i + 2 < chars.length;
    ranges.push([from, isRange ? (chars[i + 2] as string) : from]);
    if (isRange) i += 2;
  }
  return (char) => ranges.some(([from, to]) => char >= from && char <= to) !== isNot;
}

/** The last `**` takes one part more whenever what follows does not match: one way back is enough. */
function matchParts(parts: readonly Part[], path: readonly string[]): boolean {
  return matchSequence(parts, path, isDeep, matchPart);
}

const isDeep = (part: Part): boolean => part === DEEP;
const isAny = (token: Token): boolean => token === 'any';
const matchToken = (token: Token, char: string): boolean => token !== 'any' && token.one(char);

function matchPart(part: Part, text: string): boolean {
  if (typeof part === 'string') return part === text;
  return part !== DEEP && matchSequence(part, text, isAny, matchToken);
}

/** Wildcard matching with one way back, after Krauss (2008): never more than pattern times text. */
function matchSequence<P, T>(
  pattern: readonly P[],
  text: ArrayLike<T>,
  isWild: (part: P) => boolean,
  matches: (part: P, item: T) => boolean,
): boolean {
  let [p, t, wild, mark] = [0, 0, -1, 0];
  while (t < text.length) {
    if (p < pattern.length && isWild(pattern[p] as P)) {
      wild = p++;
      mark = t;
    } else if (p < pattern.length && matches(pattern[p] as P, text[t] as T)) {
      p++;
      t++;
    } else if (wild >= 0) {
      p = wild + 1;
      t = ++mark;
    } else return false;
  }
  while (p < pattern.length && isWild(pattern[p] as P)) p++;
  return p === pattern.length;
}
