/**
 * Regular expressions that people write, in the syntax and by the engine of RE2: matching is linear
 * in the text whatever the expression. Looking ahead or back and back references are not in it.
 */
import { RE2JS } from 're2js';
import { ok, refuse, type Result } from '../result.ts';

/** Longer ones nobody reads. */
const MOST_EXPRESSION = 300;

/** A test whether a text holds a match. Errors: empty, too long, no expression. */
export function compileExpression(
  expression: string,
  options: { readonly caseless?: boolean } = {},
): Result<(text: string) => boolean> {
  if (expression.trim() === '') return refuse('', 'is empty');
  if (expression.length > MOST_EXPRESSION) return refuse('', `is longer than ${MOST_EXPRESSION} letters`);
  try {
    const compiled = RE2JS.compile(expression, options.caseless ? RE2JS.CASE_INSENSITIVE : 0);
    return ok((text) => compiled.matcher(text).find());
  } catch (error) {
    const said = error instanceof Error ? error.message : '';
    const why = said.replace(/^error parsing regexp: /, '').replace('`(?i)', '`');
    return refuse('', `is no regular expression: ${why}`);
  }
}
