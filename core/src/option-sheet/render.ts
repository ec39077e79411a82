/**
 * A sheet as files and commands. Templates are Mustache: `{{option}}` is a value, a section
 * `{{#option}}…{{/option}}` is there for yes, for a filled text, and once for each of many (`{{.}}`),
 * `{{^option}}…{{/option}}` where there is none; `{{#is.option.Value}}` asks for one value.
 */
import Mustache from 'mustache';
import { ok, refuseAll, type Fault, type Result } from '../result.ts';
import type { OptionSuite, OptionValue, SheetValues, SuiteTemplate } from './suite.ts';

export interface Rendered {
  readonly name: string;
  readonly text: string;
}

type Token = [type: string, value: string, start: number, end: number, inside?: Token[] | string];

/** Errors at `templates.<i>.text`: a section that does not close, an option that there is not. */
export function templateFaults(suite: OptionSuite): Fault[] {
  return suite.templates.flatMap((template, i) =>
    faultsOf(template, suite).map((message) => ({ path: `templates.${i}.text`, message })),
  );
}

function faultsOf({ text }: SuiteTemplate, suite: OptionSuite): string[] {
  let tokens: Token[];
  try {
    tokens = Mustache.parse(text) as unknown as Token[];
  } catch (error) {
    return [`cannot be read: ${error instanceof Error ? placeOf(error.message, text) : 'unknown'}`];
  }
  const known = new Set(suite.options.map((option) => option.id));
  return [...new Set(namesIn(tokens))].flatMap(({ name, at }) => {
    const id = name.startsWith('is.') ? (name.split('.')[1] ?? '') : name;
    return name === '.' || known.has(id)
      ? []
      : [`line ${lineAt(text, at)} names the option “${id}”, which there is not`];
  });
}

function namesIn(tokens: readonly Token[]): { name: string; at: number }[] {
  return tokens.flatMap(([type, value, start, , inside]) => [
    ...(['name', '&', '{', '#', '^'].includes(type) ? [{ name: value, at: start }] : []),
    ...(Array.isArray(inside) ? namesIn(inside) : []),
  ]);
}

/** The library counts letters; people count lines. */
function placeOf(message: string, text: string): string {
  const at = Number(/ at (\d+)$/.exec(message)?.[1] ?? NaN);
  const what = message.replace(/ at \d+$/, '').toLowerCase();
  return Number.isNaN(at) ? what : `line ${lineAt(text, at)}: ${what}`;
}

function lineAt(text: string, at: number): number {
  return text.slice(0, at).split('\n').length;
}

/** Every template with the values of a sheet in it. */
export function renderSheet(suite: OptionSuite, values: SheetValues): Result<Rendered[]> {
  const faults = templateFaults(suite);
  if (faults.length > 0) return refuseAll(faults);
  const view = {
    ...values,
    is: Object.fromEntries(suite.options.map(({ id }) => [id, marksOf(values[id])])),
  };
  return ok(
    suite.templates.map(({ name, form, text }) => ({
      name,
      text: Mustache.render(text, view, {}, { escape: form === 'xml' ? escapeXml : String }),
    })),
  );
}

/** The values that an option has, each as a name that is true. */
function marksOf(value: OptionValue | undefined): Record<string, true> {
  const list = Array.isArray(value) ? (value as readonly string[]) : typeof value === 'string' ? [value] : [];
  return Object.fromEntries(list.map((one) => [one, true as const]));
}

function escapeXml(text: unknown): string {
  const marks: Record<string, string> = {
    '&': '&amp;',
    '<': '&lt;',
    '>': '&gt;',
    '"': '&quot;',
    "'": '&apos;',
  };
  return String(text).replace(/[&<>"']/g, (mark) => marks[mark] ?? mark);
}
