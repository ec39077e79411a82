/** The large suite of the library, its options and the sheets that were filled for its desktops. */
import type { OptionSuite, SheetValues } from '@vatline/core/option-sheet/suite';

const languages = ['English', 'Irish', 'French', 'German', 'Polish', 'Ukrainian'];
const parts = ['Ledger sheets', 'Slides', 'Mail', 'Database', 'Notes', 'Publisher'];

export const brackenote: OptionSuite = {
  name: 'Brackenote Office',
  publisher: 'Brackenote',
  version: '24.2',
  options: [
    {
      id: 'edition',
      label: 'Edition',
      kind: 'choice',
      choices: ['Standard', 'Complete', 'Viewer'],
      default: 'Standard',
    },
    {
      id: 'channel',
      label: 'Update channel',
      kind: 'choice',
      choices: ['Steady', 'Monthly', 'Preview'],
      default: 'Steady',
    },
    { id: 'languages', label: 'Languages', kind: 'many', choices: languages, default: ['English'] },
    { id: 'proofing', label: 'Proofing tools', kind: 'many', choices: languages, default: ['English'] },
    { id: 'leftOut', label: 'Parts left out', kind: 'many', choices: parts, default: [] },
    {
      id: 'source',
      label: 'Source',
      kind: 'text',
      pattern: String.raw`\\\\[\w.-]+\\.+`,
      default: String.raw`\\files.wrenfield.example\suite\24.2`,
      help: 'where hosts fetch it from',
    },
    {
      id: 'shared',
      label: 'Licence for shared machines',
      kind: 'yes or no',
      default: true,
      help: 'per user, also where many share a host',
    },
    {
      id: 'formats',
      label: 'Saves documents as',
      kind: 'choice',
      choices: ['Open document', 'Brackenote', 'Ask'],
      default: 'Open document',
    },
  ],
  rules: [
    {
      when: { option: 'channel', is: 'Preview' },
      then: { option: 'shared', must: 'not be', value: true },
      why: 'the preview channel has no licence for shared machines',
    },
    {
      when: { option: 'edition', is: 'Viewer' },
      then: { option: 'leftOut', must: 'be', value: 'Database' },
      why: 'the viewer has no database; leave it out',
    },
    {
      when: { option: 'languages', is: 'Irish' },
      then: { option: 'proofing', must: 'be', value: 'Irish' },
      why: 'who writes Irish is promised proofing tools for it',
    },
  ],
  templates: [
    {
      name: 'answers.xml',
      form: 'xml',
      text: [
        '<suite edition="{{edition}}" channel="{{channel}}" source="{{source}}">',
        '{{#languages}}',
        '  <language name="{{.}}" />',
        '{{/languages}}',
        '{{#proofing}}',
        '  <proofing language="{{.}}" />',
        '{{/proofing}}',
        '{{#leftOut}}',
        '  <without part="{{.}}" />',
        '{{/leftOut}}',
        '{{#shared}}',
        '  <licence kind="shared machine" />',
        '{{/shared}}',
        '  <documents save-as="{{formats}}" />',
        '</suite>',
        '',
      ].join('\n'),
    },
    {
      name: 'command',
      form: 'plain',
      text: 'setup.exe /quiet /answers answers.xml{{#is.channel.Preview}} /accept-preview{{/is.channel.Preview}}',
    },
  ],
};

export const brackenoteSheets: readonly { readonly name: string; readonly values: SheetValues }[] = [
  {
    name: 'Branch desks',
    values: {
      edition: 'Complete',
      channel: 'Steady',
      languages: ['English', 'Irish'],
      proofing: ['English', 'Irish', 'Polish'],
      leftOut: ['Publisher'],
      source: String.raw`\\files.wrenfield.example\suite\24.2`,
      shared: true,
      formats: 'Open document',
    },
  },
  {
    name: 'Reading rooms',
    values: {
      edition: 'Viewer',
      channel: 'Steady',
      languages: ['English', 'Irish', 'Ukrainian'],
      proofing: ['English', 'Irish'],
      leftOut: ['Mail', 'Database', 'Publisher'],
      source: String.raw`\\files.wrenfield.example\suite\24.2`,
      shared: true,
      formats: 'Ask',
    },
  },
];
