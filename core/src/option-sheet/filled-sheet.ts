/** Option sheets as recipes refer to them: by name, and by what they render to. */
import { textDigest } from '../text-digest.ts';
import { renderSheet } from './render.ts';
import { sheetFaults, type OptionSuite, type SheetValues } from './suite.ts';

export interface FilledSheet {
  readonly suite: string;
  readonly publisher: string;
  readonly version: string;
  /** Name of the sheet. */
  readonly sheet: string;
  /** SHA-256 of the files and commands that it renders to, hex; null while something is wrong with it. */
  readonly digest: string | null;
}

export function filledSheet(suite: OptionSuite, sheet: string, values: SheetValues): FilledSheet {
  const { name, publisher, version } = suite;
  const rendered = sheetFaults(suite, values).length > 0 ? undefined : renderSheet(suite, values);
  const digest = rendered?.ok
    ? textDigest(JSON.stringify(rendered.value.map((file) => [file.name, file.text])))
    : null;
  return { suite: name, publisher, version, sheet, digest };
}

/** What a recipe's step says of the sheet that it installs by. */
export interface SheetReference {
  /** Of the suite. */
  readonly name: string;
  readonly version: string;
  readonly sheet: string;
  readonly digest: string;
}

/** Why a step cannot be run by its sheet as it is now, with the sheet where it can be taken anew; nothing when it can. */
export function sheetTrouble(
  step: SheetReference,
  sheets: readonly FilledSheet[],
): { readonly what: string; readonly now?: FilledSheet } | undefined {
  const now = sheets.find((one) => one.suite === step.name && one.sheet === step.sheet);
  if (!now)
    return {
      what:
        step.sheet === ''
          ? 'no option sheet is chosen'
          : `${step.name || 'the suite'} has no option sheet “${step.sheet}”`,
    };
  if (now.digest === null)
    return { what: `the option sheet “${step.sheet}” does not fit its suite any more` };
  if (now.digest !== step.digest || now.version !== step.version)
    return { what: `the option sheet “${step.sheet}” was changed since the recipe took it`, now };
  return undefined;
}
