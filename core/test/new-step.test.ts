import { describe, expect, it } from 'vitest';
import { copiesOf, newStep, placedBeforeEnd, usualRecipe } from '../src/image/new-step.ts';
import { stepKinds, type Step } from '../src/image/recipe.ts';
import { textDigest } from '../src/text-digest.ts';

const sources = {
  media: [{ system: 'Desktop OS 24.2', editions: ['multi-session'], digest: 'ab'.repeat(32) }],
  release: '2027-03',
  agentVersion: '4.8',
  toolsVersion: '12.1',
  buildUnit: 'OU=Build,DC=wrenfield,DC=example',
};
const agent: Step = { id: 'agent', kind: 'host agent', version: '4.8' };
const restart: Step = { id: 'restart', kind: 'restart' };
const settle: Step = { id: 'settle', kind: 'wait for settle', limitMinutes: 5 };
const ids = (steps: readonly Step[]) => steps.map((step) => step.id);

describe('new steps', () => {
  it('go before the waits and restarts that end a recipe', () => {
    expect(ids(placedBeforeEnd([agent, settle, restart], [{ ...agent, id: 'new' }]))).toEqual([
      'agent',
      'new',
      'settle',
      'restart',
    ]);
    expect(ids(placedBeforeEnd([], [agent]))).toEqual(['agent']);
    expect(ids(placedBeforeEnd([restart], [agent]))).toEqual(['agent', 'restart']);
  });

  it('that are waits or restarts themselves go to the very end', () => {
    expect(ids(placedBeforeEnd([agent, restart], [settle]))).toEqual(['agent', 'restart', 'settle']);
  });

  it('copied from another recipe get ids that are free here and among themselves', () => {
    const taken = [agent, restart, { ...restart, id: 'restart-2' }];
    expect(ids(copiesOf(taken, [agent, restart]))).toEqual(['agent-2', 'restart-2', 'restart-3']);
  });

  it('of every kind have an id of their own beside one another', () => {
    const steps = stepKinds.reduce<Step[]>((list, kind) => [...list, newStep(kind, list, sources)], []);
    expect(new Set(ids(steps)).size).toBe(stepKinds.length);
    const usual = usualRecipe(sources);
    expect(new Set(ids(usual)).size).toBe(usual.length);
  });
});

describe('a script', () => {
  it('is told by the SHA-256 of its text', () => {
    // As `printf %s abc | sha256sum` gives it.
    expect(textDigest('abc')).toBe('ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad');
    expect(textDigest('é')).not.toBe(textDigest('e'));
  });
});
