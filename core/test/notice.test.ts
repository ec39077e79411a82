import { describe, expect, it } from 'vitest';
import { noticeAt, noticeFaults, noticeText } from '../src/rollout/notice.ts';

const notice = { text: 'Save your work: {minutes} min, no more than {minutes}.', minutesBefore: 15 };

describe('what people are told', () => {
  it('says how long there is, in whole minutes, wherever it stands', () => {
    expect(noticeText(notice, 25)).toBe('Save your work: 25 min, no more than 25.');
    expect(noticeText(notice, 14.2)).toBe('Save your work: 15 min, no more than 15.');
    // What is put in is not looked through once more.
    expect(noticeText({ text: '$& {minutes}' }, 5)).toBe('$& 5');
  });

  it('is told so long before the window, or not before at all', () => {
    expect(noticeAt(notice, 1_000_000_000)).toBe(1_000_000_000 - 900_000);
    expect(noticeAt({ ...notice, minutesBefore: 0 }, 1_000_000_000)).toBeUndefined();
  });

  it.each([
    ['in {minutes} min', undefined],
    ['no placeholder at all', undefined],
    ['in {hours}', '{hours} stands for nothing; {minutes} is how long there is'],
    ['{}', '{} stands for nothing; {minutes} is how long there is'],
  ])('%s', (text, fault) => {
    const faults = noticeFaults({ text, minutesBefore: 0 });
    expect(faults.map(({ path, message }) => [path, message])).toEqual(
      fault === undefined ? [] : [['notice.text', fault]],
    );
  });

  it('is nothing where nobody is told', () => expect(noticeFaults(null)).toEqual([]));
});
