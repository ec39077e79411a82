import { createHash } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { filledSheet } from '../src/option-sheet/filled-sheet.ts';
import type { OptionSuite } from '../src/option-sheet/suite.ts';

const suite: OptionSuite = {
  name: 'Marlstone Office',
  publisher: 'Marlstone',
  version: '1.4',
  options: [
    { id: 'edition', label: 'Edition', kind: 'choice', choices: ['Small', 'Full'], default: 'Small' },
    { id: 'asked', label: 'Asked by', kind: 'text', optional: true, default: '' },
  ],
  rules: [],
  templates: [{ name: 'command', form: 'plain', text: 'setup.exe /quiet /edition {{edition}}' }],
};
const digestOf = (values: Record<string, string>, of = suite) => filledSheet(of, 'Desks', values).digest;

describe('a sheet as recipes refer to it', () => {
  it('is told by what it renders to', () => {
    const text = JSON.stringify([['command', 'setup.exe /quiet /edition Full']]);
    expect(digestOf({ edition: 'Full', asked: '' })).toBe(createHash('sha256').update(text).digest('hex'));
  });
  it('stays the same while nothing that is rendered changes, and is another when something does', () => {
    const desks = digestOf({ edition: 'Full', asked: '' });
    expect(digestOf({ edition: 'Full', asked: 'the branch' })).toBe(desks);
    expect(digestOf({ edition: 'Small', asked: '' })).not.toBe(desks);
    const templates = [{ name: 'command', form: 'plain' as const, text: 'setup.exe /silent {{edition}}' }];
    expect(digestOf({ edition: 'Full', asked: '' }, { ...suite, templates })).not.toBe(desks);
  });
  it('has no digest while it does not fit', () => {
    expect(digestOf({ edition: 'Gold', asked: '' })).toBeNull();
  });
});
