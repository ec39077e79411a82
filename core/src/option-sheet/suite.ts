/** What a packager declares of a large suite: its options, the rules between them, and the files they become. */
import { compileExpression } from '../package/expression.ts';
import type { Fault } from '../result.ts';

export const optionKinds = ['choice', 'many', 'yes or no', 'text'] as const;
export type OptionKind = (typeof optionKinds)[number];

export type OptionValue = string | boolean | readonly string[];

export interface SuiteOption {
  /** What templates call it: letters, digits and `_`. */
  readonly id: string;
  readonly label: string;
  readonly kind: OptionKind;
  /** Of a choice or of many. */
  readonly choices?: readonly string[] | undefined;
  /** Of a text: a regular expression that all of it must match. */
  readonly pattern?: string | undefined;
  /** Whether it may stay empty; choices and texts may not unless this says so. */
  readonly optional?: boolean | undefined;
  readonly default: OptionValue;
  readonly help?: string | undefined;
}

/** When an option is (or holds) a value, another must be, must not be, or must be filled. */
export interface OptionRule {
  readonly when: { readonly option: string; readonly is: string | boolean };
  readonly then: {
    readonly option: string;
    readonly must: 'be' | 'not be' | 'be filled';
    readonly value?: string | boolean | undefined;
  };
  readonly why: string;
}

export interface SuiteTemplate {
  /** Name of the file, or of the command. */
  readonly name: string;
  /** How values are written: marks of XML escaped, or as they are. */
  readonly form: 'xml' | 'plain';
  readonly text: string;
}

export interface OptionSuite {
  readonly name: string;
  readonly publisher: string;
  readonly version: string;
  readonly options: readonly SuiteOption[];
  readonly rules: readonly OptionRule[];
  readonly templates: readonly SuiteTemplate[];
}

export type SheetValues = Readonly<Record<string, OptionValue>>;

/** A sheet as nobody has touched it. */
export function defaultValues(suite: OptionSuite): SheetValues {
  return Object.fromEntries(suite.options.map((option) => [option.id, option.default]));
}

/** What is wrong with a declaration, apart from its templates. */
export function suiteFaults(suite: OptionSuite): Fault[] {
  const ids = suite.options.map((option) => option.id);
  return [
    ...suite.options.flatMap((option, i) => [
      ...(ids.indexOf(option.id) < i
        ? [{ path: `options.${i}.id`, message: 'is the id of an earlier option too' }]
        : []),
      ...optionFaults(option, `options.${i}`),
    ]),
    ...suite.rules.flatMap((rule, i) => ruleFaults(rule, suite, `rules.${i}`)),
  ];
}

function optionFaults(option: SuiteOption, at: string): Fault[] {
  const { kind, choices } = option;
  const faults: Fault[] = [];
  const needsChoices = kind === 'choice' || kind === 'many';
  if (needsChoices && (choices?.length ?? 0) === 0)
    faults.push({ path: `${at}.choices`, message: 'are missing; there is nothing to choose from' });
  if (!needsChoices && choices) faults.push({ path: `${at}.choices`, message: `do not go with ${kind}` });
  const pattern = option.pattern === undefined ? undefined : compileExpression(option.pattern);
  if (pattern?.ok === false)
    for (const { message } of pattern.error) faults.push({ path: `${at}.pattern`, message });
  if (faults.length === 0) {
    const wrong = valueFault(option, option.default, true);
    if (wrong) faults.push({ path: `${at}.default`, message: wrong });
  }
  return faults;
}

function ruleFaults(rule: OptionRule, suite: OptionSuite, at: string): Fault[] {
  const known = new Map(suite.options.map((option) => [option.id, option]));
  const side = (option: string, value: string | boolean | undefined, path: string): Fault[] => {
    const found = known.get(option);
    if (!found) return [{ path: `${at}.${path}.option`, message: `there is no option ${option}` }];
    const isChoice = found.kind === 'choice' || found.kind === 'many';
    return isChoice && typeof value === 'string' && !found.choices?.includes(value)
      ? [{ path: `${at}.${path}`, message: `${option} cannot be “${value}”` }]
      : [];
  };
  return [
    ...side(rule.when.option, rule.when.is, 'when'),
    ...side(rule.then.option, rule.then.value, 'then'),
    ...(rule.then.must !== 'be filled' && rule.then.value === undefined
      ? [{ path: `${at}.then.value`, message: 'is missing' }]
      : []),
  ];
}

/** What is wrong with a filled sheet, each at `<option>`. */
export function sheetFaults(suite: OptionSuite, values: SheetValues): Fault[] {
  const own = suite.options.flatMap((option) => {
    const wrong = valueFault(option, values[option.id], false);
    return wrong ? [{ path: option.id, message: wrong }] : [];
  });
  const broken = suite.rules.flatMap((rule) =>
    holds(values[rule.when.option], rule.when.is) && !isKept(rule, values)
      ? [{ path: rule.then.option, message: rule.why }]
      : [],
  );
  const unknown = Object.keys(values)
    .filter((id) => !suite.options.some((option) => option.id === id))
    .map((id) => ({ path: id, message: 'is no option of this suite' }));
  return [...own, ...broken, ...unknown];
}

function isKept({ then }: OptionRule, values: SheetValues): boolean {
  const value = values[then.option];
  if (then.must === 'be filled') return !isEmpty(value);
  return holds(value, then.value ?? '') === (then.must === 'be');
}

/** Whether an option is a value, or holds it. */
function holds(value: OptionValue | undefined, wanted: string | boolean): boolean {
  return Array.isArray(value) ? value.includes(wanted as string) : value === wanted;
}

function isEmpty(value: OptionValue | undefined): boolean {
  return value === undefined || value === '' || (Array.isArray(value) && value.length === 0);
}

function valueFault(
  option: SuiteOption,
  value: OptionValue | undefined,
  isDefault: boolean,
): string | undefined {
  switch (option.kind) {
    case 'yes or no':
      return typeof value === 'boolean' ? undefined : 'must be yes or no';
    case 'many': {
      if (!Array.isArray(value)) return 'must be a list';
      const stranger = (value as readonly string[]).find((one) => !option.choices?.includes(one));
      return stranger === undefined ? undefined : `cannot hold “${stranger}”`;
    }
    default:
      return textFault(option, value, isDefault);
  }
}

function textFault(
  option: SuiteOption,
  value: OptionValue | undefined,
  isDefault: boolean,
): string | undefined {
  if (typeof value !== 'string') return 'must be a text';
  // A default may be left for the person to fill in.
  if (value === '') return option.optional || isDefault ? undefined : 'is empty';
  if (option.kind === 'choice')
    return option.choices?.includes(value)
      ? undefined
      : `cannot be “${value}”; choose one of ${option.choices?.join(', ') ?? ''}`;
  return option.pattern === undefined || fits(option.pattern, value)
    ? undefined
    : `does not match ${option.pattern}`;
}

/** Whether all of a value matches; a pattern that is none lets nothing through. */
function fits(pattern: string, value: string): boolean {
  const whole = compileExpression(`^(?:${pattern})$`);
  return whole.ok && whole.value(value);
}
