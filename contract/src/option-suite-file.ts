/** The declaration of a suite as YAML 1.2, one to one; `docs/option-sheets.md` tells the format. */
import { Document, isNode, isSeq } from 'yaml';
import { templateFaults } from '@vatline/core/option-sheet/render';
import { suiteFaults, type OptionSuite } from '@vatline/core/option-sheet/suite';
import type { Fault, Result } from '@vatline/core/result';
import { optionSuiteSchema, type OptionSuiteInput } from './option-sheet.ts';
import { asBlocks, readYaml, type TextFault } from './yaml-document.ts';

/** What is wrong with a declaration of the right shape, each at its path. */
export function allSuiteFaults(suite: OptionSuiteInput): readonly Fault[] {
  const own = suite as OptionSuite;
  return [...suiteFaults(own), ...templateFaults(own)];
}

/** Reads a declaration. Errors: no YAML, unknown or missing fields, options, rules and templates that do not fit. */
export function readSuiteFile(text: string): Result<OptionSuiteInput, readonly TextFault[]> {
  return readYaml(text, optionSuiteSchema, 'a suite', allSuiteFaults);
}

/** Writes a declaration; `readSuiteFile` gives the same back. */
export function writeSuiteFile(suite: OptionSuiteInput): string {
  const document = new Document(JSON.parse(JSON.stringify(suite)));
  asBlocks(document);
  for (const part of ['options', 'rules', 'templates']) {
    const list = document.get(part);
    if (isSeq(list)) for (const item of list.items.slice(1)) if (isNode(item)) item.spaceBefore = true;
  }
  return document.toString({ lineWidth: 0, flowCollectionPadding: false });
}
