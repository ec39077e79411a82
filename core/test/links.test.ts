import { describe, expect, it } from 'vitest';
import { linksStayInside } from '../src/container/links.ts';

const judge = (links: Record<string, string>) => linksStayInside(new Map(Object.entries(links)));
const stays = (links: Record<string, string>) => judge(links).ok;

describe('links of an archive', () => {
  it('are judged one by one where nothing else is on their way', () => {
    expect(stays({ 'a/b/link': '../c' })).toBe(true);
    expect(stays({ 'a/link': '../../c' })).toBe(false);
    expect(stays({ link: '/etc' })).toBe(false);
    expect(stays({ 'a/link': 'x/../../../y' })).toBe(false);
    expect(stays({ link: '.' })).toBe(true);
  });

  it('are judged by where they lead through each other', () => {
    // On paper `out` goes eight folders down and two up; for real `i` is the root, and up from it is outside.
    const deep = 'a/b/c/d/e/f/g/h';
    expect(stays({ [`${deep}/i`]: '../../../../../../../..' })).toBe(true);
    expect(stays({ [`${deep}/i`]: '../../../../../../../..', out: `${deep}/i/../etc` })).toBe(false);
    expect(stays({ one: 'two/x', two: 'a/three', 'a/three': '/tmp' })).toBe(false);
  });

  it('may go in circles, since nothing can be reached by them', () => {
    expect(stays({ a: 'b', b: 'a' })).toBe(true);
    expect(stays({ a: 'a/a/a' })).toBe(true);
  });

  it('that fan out without end are given up on, in time', () => {
    // Each leads twice through the one before: 2^40 parts by hand, but a system stops after 40 links.
    const links: Record<string, string> = { l0: '.' };
    for (let i = 1; i < 60; i++) links[`l${i}`] = `l${i - 1}/l${i - 1}`;
    expect(stays(links)).toBe(true);
    const wide = Object.fromEntries(
      Array.from({ length: 30_000 }, (_none, i) => [`w${i}`, `${'x/../'.repeat(400)}y`]),
    );
    const answer = judge(wide);
    expect(answer.ok ? '' : answer.error[0]?.message).toContain('through too many others');
  });
});
