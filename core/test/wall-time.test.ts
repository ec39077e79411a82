/** Times of day as people write them. */
import { expect, it } from 'vitest';
import { formatWallTime, parseWallTime } from '../src/time/zone.ts';

it('every minute of a day is read as it was written', () => {
  const minutes = Array.from({ length: 1_440 }, (_, minute) => minute);
  expect(minutes.map((minute) => parseWallTime(formatWallTime(minute)))).toEqual(minutes);
});

it('a minute of the next day is written as what the clock shows then', () => {
  expect([formatWallTime(1_440), formatWallTime(1_500)]).toEqual(['00:00', '01:00']);
});

it.each(['24:00', '7:00', '07:60', '07:00:00', ' 07:00', ''])('“%s” is none', (text) => {
  expect(parseWallTime(text)).toBeUndefined();
});
