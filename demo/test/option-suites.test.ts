/** The demo's suite by hand: values, rules, templates, and what differs between its sheets. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compareSheets } from '@vatline/core/option-sheet/compare-sheets';
import { renderSheet, templateFaults } from '@vatline/core/option-sheet/render';
import {
  defaultValues,
  sheetFaults,
  suiteFaults,
  type OptionSuite,
  type SheetValues,
} from '@vatline/core/option-sheet/suite';
import { must } from '@vatline/core/result';
import { brackenote, brackenoteSheets } from '../src/option-suites.ts';

const [desks, rooms] = brackenoteSheets.map((sheet) => sheet.values) as [SheetValues, SheetValues];

describe('the suite', () => {
  it('is declared well, and so are its sheets and its defaults', () => {
    expect(suiteFaults(brackenote)).toEqual([]);
    expect(templateFaults(brackenote)).toEqual([]);
    for (const values of [desks, rooms, defaultValues(brackenote)])
      expect(sheetFaults(brackenote, values)).toEqual([]);
  });

  it.each([
    [{ edition: 'Gold' }, 'edition', 'cannot be “Gold”; choose one of Standard, Complete, Viewer'],
    [{ edition: '' }, 'edition', 'is empty'],
    [{ languages: ['Latin'] }, 'languages', 'cannot hold “Latin”'],
    [{ shared: 'yes' }, 'shared', 'must be yes or no'],
    [{ source: 'files' }, 'source', /does not match/],
    [{ channel: 'Preview' }, 'shared', 'the preview channel has no licence for shared machines'],
    [{ proofing: ['English'] }, 'proofing', 'who writes Irish is promised proofing tools for it'],
    [{ colour: 'red' }, 'colour', 'is no option of this suite'],
  ] as [SheetValues, string, string | RegExp][])('%o: %s', (change, path, message) => {
    const [fault, ...others] = sheetFaults(brackenote, { ...desks, ...change });
    expect([fault?.path, others]).toEqual([path, []]);
    expect(fault?.message).toMatch(message);
  });

  it.each([
    [{ options: [{ ...brackenote.options[0], choices: [] }] }, 'options.0.choices'],
    [{ options: [{ ...brackenote.options[0], default: 'Gold' }] }, 'options.0.default'],
    [{ options: [brackenote.options[0], brackenote.options[0]] }, 'options.1.id'],
    [{ options: [{ ...brackenote.options[5], pattern: '(' }] }, 'options.0.pattern'],
    [{ rules: [{ ...brackenote.rules[0], when: { option: 'no', is: true } }] }, 'rules.0.when.option'],
    [{ rules: [{ ...brackenote.rules[0], when: { option: 'channel', is: 'Weekly' } }] }, 'rules.0.when'],
  ] as [Partial<OptionSuite>, string][])('a declaration that is wrong at %o', (change, path) => {
    const own = 'options' in change ? { ...brackenote, rules: [], ...change } : { ...brackenote, ...change };
    expect(suiteFaults(own).map((fault) => fault.path)).toEqual([path]);
  });
});

describe('what a sheet becomes', () => {
  it('an answer file and a command', () => {
    const [answers, command] = must(renderSheet(brackenote, rooms));
    expect(answers?.text).toBe(
      [
        String.raw`<suite edition="Viewer" channel="Steady" source="\\files.wrenfield.example\suite\24.2">`,
        '  <language name="English" />',
        '  <language name="Irish" />',
        '  <language name="Ukrainian" />',
        '  <proofing language="English" />',
        '  <proofing language="Irish" />',
        '  <without part="Mail" />',
        '  <without part="Database" />',
        '  <without part="Publisher" />',
        '  <licence kind="shared machine" />',
        '  <documents save-as="Ask" />',
        '</suite>',
        '',
      ].join('\n'),
    );
    expect(command?.text).toBe('setup.exe /quiet /answers answers.xml');
    const preview = must(renderSheet(brackenote, { ...rooms, channel: 'Preview' }));
    expect(preview[1]?.text).toBe('setup.exe /quiet /answers answers.xml /accept-preview');
  });

  it('no value can break out of an answer file', () => {
    const suite: OptionSuite = {
      ...brackenote,
      options: [{ id: 'a', label: 'A', kind: 'text', optional: true, default: '' }],
      rules: [],
      templates: [{ name: 'x', form: 'xml', text: '<x a="{{a}}"/>' }],
    };
    fc.assert(
      fc.property(fc.string(), (text) => {
        const [file] = must(renderSheet(suite, { a: text }));
        expect(file?.text.slice(6, -3)).not.toMatch(/[<>"]/);
      }),
    );
  });

  it.each([
    ['{{#edition}}', /cannot be read: line 1: unclosed section "edition"/],
    ['a\n{{/edition}}', /cannot be read: line 2: unopened section "edition"/],
    ['a\nb {{editon}}', 'line 2 names the option “editon”, which there is not'],
    ['{{#is.colour.Red}}x{{/is.colour.Red}}', 'line 1 names the option “colour”, which there is not'],
  ])('a template %j is refused with its line', (text, message) => {
    const suite = { ...brackenote, templates: [{ name: 'x', form: 'plain' as const, text }] };
    expect(templateFaults(suite)[0]?.message).toMatch(message);
    expect(renderSheet(suite, desks).ok).toBe(false);
  });
});

describe('two sheets', () => {
  it('what differs, option by option; the order of many does not matter', () => {
    expect(compareSheets(brackenote, desks, { ...desks, languages: ['Irish', 'English'] })).toEqual([]);
    expect(
      compareSheets(brackenote, desks, rooms).map((row) => [
        row.label,
        row.before,
        row.after,
        row.added,
        row.removed,
      ]),
    ).toEqual([
      ['Edition', 'Complete', 'Viewer', ['Viewer'], ['Complete']],
      ['Languages', 'English, Irish', 'English, Irish, Ukrainian', ['Ukrainian'], []],
      ['Proofing tools', 'English, Irish, Polish', 'English, Irish', [], ['Polish']],
      ['Parts left out', 'Publisher', 'Mail, Database, Publisher', ['Mail', 'Database'], []],
      ['Saves documents as', 'Open document', 'Ask', ['Ask'], ['Open document']],
    ]);
  });
});
