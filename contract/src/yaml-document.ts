/** YAML 1.2 texts that are checked against a schema; every fault is given with its line and column. */
import {
  isMap,
  isNode,
  isPair,
  isSeq,
  LineCounter,
  parseDocument,
  visit,
  type Document,
  type Node,
} from 'yaml';
import type { z } from 'zod';
import type { Fault, Result } from '@vatline/core/result';

/** What is wrong in a text. Lines and columns count from 1. */
export interface TextFault {
  readonly line: number;
  readonly column: number;
  /** Path in the document, such as `steps.3.command`; empty where the text is no YAML. */
  readonly path: string;
  readonly message: string;
}

/**
 * Writes texts of several lines line by line, so that scripts and templates stay readable. One that
 * begins with a space stays in quotation marks: as a block it would come back without it.
 */
export function asBlocks(document: Document): void {
  visit(document, {
    Scalar(_key, node) {
      if (typeof node.value !== 'string' || !node.value.includes('\n')) return;
      node.type = /^\S/.test(node.value) ? 'BLOCK_LITERAL' : 'QUOTE_DOUBLE';
    },
  });
}

/** Longer texts are refused before they are read. */
export const MAX_TEXT = 2_000_000;

/**
 * Reads a text. `faultsOf` gives what is wrong with a value of the right shape, at paths in the
 * document; `what` is what a field belongs to, such as `this kind of step`.
 */
export function readYaml<S extends z.ZodType>(
  text: string,
  schema: S,
  what: string,
  faultsOf: (value: z.output<S>) => readonly Fault[],
): Result<z.output<S>, readonly TextFault[]> {
  if (text.length > MAX_TEXT) return refuse(1, 1, 'is longer than 2 MB');
  const lines = new LineCounter();
  const document = parseDocument(text, { lineCounter: lines, prettyErrors: false });
  const [broken] = document.errors;
  if (broken) {
    const { line, col } = lines.linePos(broken.pos[0]);
    return refuse(line, col, plainYamlMessage(broken.message));
  }
  const value = plainValue(document);
  if (!value.ok) return refuse(1, 1, value.error);
  const checked = schema.safeParse(value.value, { reportInput: true });
  const faults = checked.success
    ? faultsOf(checked.data).map((fault) => ({ ...fault, keys: fault.path.split('.') }))
    : checked.error.issues.flatMap((issue) => faultsOfIssue(issue, what));
  if (checked.success && faults.length === 0) return { ok: true, value: checked.data };
  return {
    ok: false,
    error: faults.map(({ keys, message }) => ({
      ...positionOf(document, lines, keys),
      path: keys.join('.'),
      message,
    })),
  };
}

/** A document that names itself over and over would grow without end; the library refuses it. */
function plainValue(document: Document.Parsed): Result<unknown, string> {
  try {
    return { ok: true, value: document.toJS({ maxAliasCount: 100 }) as unknown };
  } catch {
    return { ok: false, error: 'repeats itself by aliases too often' };
  }
}

function faultsOfIssue(issue: z.core.$ZodIssue, what: string): { keys: string[]; message: string }[] {
  const keys = issue.path.map(String);
  if (issue.code === 'unrecognized_keys')
    return issue.keys.map((key) => ({ keys: [...keys, key], message: `is not a field of ${what}` }));
  if (issue.code === 'invalid_type' && issue.input === undefined)
    return [{ keys, message: `has no ${keys.at(-1) ?? 'value'}` }];
  return [{ keys, message: issue.message }];
}

/** Where a value stands; where it is missing, the place of what it is missing from. */
function positionOf(
  document: Document.Parsed,
  lines: LineCounter,
  path: readonly string[],
): { line: number; column: number } {
  let offset = 0;
  let node: Node | null = document.contents;
  for (const key of path) {
    const found = childOf(node, key);
    if (!found) break;
    offset = found.offset;
    node = found.node;
  }
  const { line, col } = lines.linePos(offset);
  return { line, column: col };
}

function childOf(node: Node | null, key: string): { offset: number; node: Node | null } | undefined {
  if (isSeq(node)) {
    const item = node.items[Number(key)];
    return isNode(item) ? { offset: item.range?.[0] ?? 0, node: item } : undefined;
  }
  if (!isMap(node)) return undefined;
  const pair = node.items.find((item) => isPair(item) && isNode(item.key) && String(item.key) === key);
  if (!pair || !isNode(pair.key)) return undefined;
  return { offset: pair.key.range?.[0] ?? 0, node: isNode(pair.value) ? pair.value : null };
}

function refuse(line: number, column: number, message: string) {
  return { ok: false as const, error: [{ line, column, path: '', message }] };
}

/** The library's message without its place, which stands beside it. */
function plainYamlMessage(message: string): string {
  return message.replace(/ at line \d+, column \d+:?[\s\S]*$/, '').replace(/\.$/, '');
}
