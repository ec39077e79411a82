/** Closed days over HTTP, and that forecast and engine keep to them. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Calendar } from '@vatline/contract/calendar';
import type { ForecastAnswer, Rollout } from '@vatline/contract/rollout';
import { DAY } from '@vatline/core/time/instant';
import { addDays, formatDate, wallClock, type LocalDate } from '@vatline/core/time/zone';
import { TestServer } from './harness.ts';
import { nightlyRollout, smallPool } from './usual-requests.ts';

const ZONE = 'Europe/Dublin';
let server: TestServer;
let newest: string;
let poolId: string;
let today: LocalDate;

beforeAll(async () => {
  server = await TestServer.open();
  const { lineId, versionId } = await server.makeVersion();
  await server.buildAndCutAgain(lineId);
  const { versions } = await server.get<{ versions: { id: string }[] }>(`/lines/${lineId}`);
  newest = versions[0]?.id ?? '';
  const body = smallPool('closed', versionId, 'WCL-CL-#', 2);
  const made = await server.send<{ poolId: string; jobId: string }>('post', '/pools', body);
  expect((await server.untilEnded(made.jobId, 500)).state).toBe('done');
  ({ poolId } = made);
  today = wallClock(ZONE, server.now);
});
afterAll(() => server.close());

const day = (days: number) => formatDate(addDays(today, days));
const list = () => server.get<Calendar[]>('/calendars');
const named = async (name: string) => (await list()).find((calendar) => calendar.name === name);

/** An iCalendar file that closes some days, counted from today. */
function closing(...days: number[]): string {
  const events = days.flatMap((n) => [
    'BEGIN:VEVENT',
    `UID:${n}`,
    `DTSTART;VALUE=DATE:${day(n).replaceAll('-', '')}`,
    'END:VEVENT',
  ]);
  return ['BEGIN:VCALENDAR', 'VERSION:2.0', ...events, 'END:VCALENDAR', ''].join('\r\n');
}

const add = (name: string, text: string) => server.send<{ id: string }>('post', '/calendars', { name, text });
const rolloutBody = (calendarIds: string[]) => ({ ...nightlyRollout(poolId, newest, 2), calendarIds });

describe('a calendar', () => {
  it('says what it closes next, in order, and who keeps to it', async () => {
    await add('Holidays', closing(9, 2, 40));
    expect(await named('Holidays')).toMatchObject({
      revision: 1,
      nextDates: [day(2), day(9), day(40)],
      nextSpans: [],
      usedBy: [],
    });
  });

  it('is not taken when it is none, or its name is taken; the fault stands at its field', async () => {
    const refused = (name: string, text: string) => server.refused('post', '/calendars', { name, text });
    expect(await refused('Other', 'a page of a diary')).toMatchObject({ status: 422, paths: ['text'] });
    expect(await refused('Other', '')).toMatchObject({ status: 422, paths: ['text'] });
    expect(await refused('', closing(1))).toMatchObject({ status: 422, paths: ['name'] });
    expect(await refused('Holidays', closing(1))).toMatchObject({ status: 409, paths: ['name'] });
    expect(await refused('Other', 'x'.repeat(1_000_001))).toMatchObject({ status: 422, paths: ['text'] });
    expect((await list()).map((calendar) => calendar.name)).toEqual(['Holidays']);
  });

  it('that would be read for hours is given up, and others are read afterwards', async () => {
    const never = (n: number) => [
      'BEGIN:VEVENT',
      `UID:${n}`,
      'DTSTART;VALUE=DATE:18000101',
      'RRULE:FREQ=YEARLY;BYDAY=53MO;BYMONTH=2',
      'END:VEVENT',
    ];
    const events = Array.from({ length: 4_000 }, (_, n) => never(n)).flat();
    const text = ['BEGIN:VCALENDAR', 'VERSION:2.0', ...events, 'END:VCALENDAR', ''].join('\r\n');
    const refused = await server.refused('post', '/calendars', { name: 'Hours', text });
    expect([refused.status, refused.paths]).toEqual([422, ['text']]);
    expect(refused.detail).toContain('could not be read in 10 seconds');
    await add('Afterwards', closing(1));
    await server.send('delete', `/calendars/${(await named('Afterwards'))?.id ?? ''}`);
  });

  it('is replaced by a newer file, once by two who saw the same one', async () => {
    const id = (await named('Holidays'))?.id ?? '';
    const keep = (text: string, basedOn: number) => ({ text, basedOn });
    expect(await server.send('put', `/calendars/${id}`, keep(closing(3), 1))).toEqual({ revision: 2 });
    const late = await server.refused('put', `/calendars/${id}`, keep(closing(5), 1));
    expect([late.status, late.paths]).toEqual([409, ['basedOn']]);
    expect((await named('Holidays'))?.nextDates).toEqual([day(3)]);
  });
});

describe('a plan that keeps to a calendar', () => {
  it('has no window on its closed days', async () => {
    const { id } = await add('Two nights', closing(1, 2));
    const open = await server.send<ForecastAnswer>('post', '/rollouts/forecast', rolloutBody([]));
    const answer = await server.send<ForecastAnswer>('post', '/rollouts/forecast', rolloutBody([id]));
    const firstDay = ({ nextWindows }: ForecastAnswer) =>
      formatDate(wallClock(ZONE, nextWindows[0]?.start ?? 0));
    expect([firstDay(open), firstDay(answer)]).toEqual([day(1), day(3)]);
    expect((answer.finish.p50 ?? 0) - (open.finish.p50 ?? 0)).toBe(2 * DAY);
  });

  it('is refused with a calendar that is not there, at that one', async () => {
    const { id } = (await named('Two nights')) ?? { id: '' };
    for (const path of ['/rollouts/forecast', '/rollouts'])
      expect(await server.refused('post', path, rolloutBody([id, 'calendar-none']))).toMatchObject({
        status: 422,
        paths: ['calendarIds.1'],
      });
  });

  it('starts no host on them, also after a restart, and goes on afterwards', async () => {
    const calendar = (await named('Two nights'))?.id ?? '';
    const { id } = await server.send<{ id: string }>('post', '/rollouts', rolloutBody([calendar]));
    const rollout = () => server.get<Rollout>(`/rollouts/${id}`);
    expect((await rollout()).calendars).toEqual(['Two nights']);
    const tape = await server.get<{ id: string; start: number }[]>(
      `/tape?from=${server.now}&to=${server.now + 4 * DAY}`,
    );
    const [night] = tape.filter((item) => item.id.startsWith(id));
    expect(formatDate(wallClock(ZONE, night?.start ?? 0))).toBe(day(3));
    await server.advance(24 * 60);
    await server.restart();
    await server.advance(24 * 60);
    expect(await rollout()).toMatchObject({ state: 'asleep', done: 0, atWork: 0 });
    await server.advance(24 * 60);
    expect(await rollout()).toMatchObject({ state: 'done', done: 2 });
    const ended = formatDate(wallClock(ZONE, (await rollout()).endedAt ?? 0));
    expect(ended).toBe(day(3));
  });

  it('does not keep what has to be undone waiting', async () => {
    const [done] = await server.get<Rollout[]>('/rollouts');
    const { id } = await server.send<{ id: string }>('post', `/rollouts/${done?.id}/go-back`, {});
    expect((await server.get<Rollout>(`/rollouts/${id}`)).calendars).toEqual([]);
    await server.advance(6 * 60);
    expect(await server.get<Rollout>(`/rollouts/${id}`)).toMatchObject({ state: 'done', done: 2 });
  });

  it('holds its calendar while it is under way', async () => {
    today = wallClock(ZONE, server.now);
    const { id: calendar } = await add('Long', closing(...Array.from({ length: 30 }, (_, i) => i)));
    const { id } = await server.send<{ id: string }>('post', '/rollouts', rolloutBody([calendar]));
    expect((await named('Long'))?.usedBy).toEqual([{ rolloutId: id, pool: 'closed' }]);
    const held = await server.refused('delete', `/calendars/${calendar}`);
    expect([held.status, held.detail]).toEqual([409, 'The rollout of closed keeps to Long; stop it first']);
    const nextDay = async () =>
      formatDate(wallClock(ZONE, (await server.get<Rollout>(`/rollouts/${id}`)).nextWindow?.start ?? 0));
    expect(await nextDay()).toBe(day(30));
    // A newer file opens the coming night, and the rollout takes it.
    await server.send('put', `/calendars/${calendar}`, { text: closing(20), basedOn: 1 });
    expect(await nextDay()).toBe(day(1));
    await server.advance(24 * 60);
    expect(await server.get<Rollout>(`/rollouts/${id}`)).toMatchObject({ state: 'done', done: 2 });
    await server.send('delete', `/calendars/${calendar}`);
    expect(await named('Long')).toBeUndefined();
  });
});
