/** The calendar: what is planned, what collides, and moving it by hand. */
import { describe, expect, it } from 'vitest';
import type { KeptSchedule } from '@vatline/contract/cut-schedule';
import type { LineSummary } from '@vatline/contract/image';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { Rollout } from '@vatline/contract/rollout';
import { beginJourney } from './journey.ts';
import type { RunningApp } from '../server/test/running-app.ts';
import type { Visitor } from './browser.ts';

let app: RunningApp;
let visitor: Visitor;
const { open } = beginJourney((started) => {
  ({ app, visitor } = started);
});

const rolloutOf = async (pool: string) =>
  (await app.api<Rollout[]>('/rollouts')).find((one) => one.pool === pool && one.endedAt === null);

const put = async (path: string, body: object) => {
  const headers = { 'content-type': 'application/json' };
  const answer = await fetch(`${app.address}/api/v1${path}`, {
    method: 'PUT',
    headers,
    body: JSON.stringify(body),
  });
  expect(answer.status, await answer.text()).toBe(200);
};

/** Where something stands on the screen, in the middle. */
async function middleOf(selector: string, text: string): Promise<{ x: number; y: number }> {
  const handle = await visitor.page.waitForFunction(
    (css, wanted) =>
      [...document.querySelectorAll(css)].find((one) => one.textContent.includes(wanted)) ?? false,
    {},
    selector,
    text,
  );
  const element = handle.asElement() as Awaited<ReturnType<typeof visitor.page.$>>;
  await element?.scrollIntoView();
  const box = await element?.boundingBox();
  if (!box) throw new Error(`${text} is not on the screen`);
  return { x: box.x + box.width / 2, y: box.y + box.height / 2 };
}

/** Carries it there and holds it; the pointer is let go by the caller. */
async function carry(from: { x: number; y: number }, to: { x: number; y: number }): Promise<void> {
  await visitor.page.mouse.move(from.x, from.y);
  await visitor.page.mouse.down();
  await visitor.page.mouse.move(to.x, to.y, { steps: 12 });
}

describe('the calendar', () => {
  it('shows a month with what is planned, closed days and the night of the clock change', async () => {
    await open('/rollouts/calendar');
    await visitor.answer('2 rollouts to come, nothing collides.');
    await visitor.sees('clocks go forward', '.month');
    await visitor.sees('closed: Libraries closed', '.month');
    await visitor.sees('contact-centre', '.month');
    expect(await visitor.violations()).toEqual([]);
  });

  it('shows a week by its hours, and a month as a list', async () => {
    await open('/rollouts/calendar?view=week&from=2027-03-24');
    await visitor.answer('2 rollouts to come, nothing collides.');
    await visitor.page.waitForSelector(
      '[aria-label^="desk-staff to In 15, Sun 28 Mar 02:00 to 05:00, at work until"]',
    );
    await visitor.page.click('[aria-label="Later"]');
    await visitor.answer('Nothing is planned for the week from 29 March.');
    await visitor.page.locator('.ant-segmented-item ::-p-text(list)').click();
    // The month that the week begins in, and not what was said of the week.
    await visitor.answer('2 rollouts to come, nothing collides.');
  });
});

describe('something planned', () => {
  it('is carried to another day: what would come of it is said before it is let go', async () => {
    await open('/rollouts/calendar');
    await visitor.answer('nothing collides');
    await carry(await middleOf('.planned', 'desk-staff'), await middleOf('.month-day', '27'));
    await visitor.sees('desk-staff: on Saturday, 01:00 to 05:00', '.move-preview');
    await visitor.sees(/What is left is done by 0\d:\d\d Sat 27 Mar \(9 in 10\)/, '.move-preview');
    await visitor.sees('By its windows nothing collides then.', '.move-preview');
    await visitor.page.mouse.up();
    await visitor.sees('Change how desk-staff is rolled out');
    await visitor.type('Why', 'the Sunday is taken');
    await visitor.click('Go on like this');
    await middleOf('.month-day', '27desk-staff');
    const moved = await rolloutOf('desk-staff');
    expect(moved?.plan.window).toEqual({ rule: 'FREQ=WEEKLY;BYDAY=SA', start: '01:00', end: '05:00' });
    expect(moved?.revision).toBe(2);
  });

  it('is carried by keys as well, and put back by Escape', async () => {
    const { page } = visitor;
    await open('/rollouts/calendar?view=week&from=2027-03-24');
    const mark = await page.waitForSelector('[aria-label^="desk-staff to In 15, Sat 27 Mar"]');
    await mark?.focus();
    await page.keyboard.press('Space');
    // Picked up: only then are arrows listened for.
    await visitor.sees('desk-staff: on Saturday, 01:00 to 05:00', '.move-preview');
    await page.keyboard.press('ArrowRight');
    await visitor.sees('desk-staff: on Saturday, 01:15 to 05:15', '.move-preview');
    await page.keyboard.press('ArrowRight');
    await visitor.sees('desk-staff: on Saturday, 01:30 to 05:30', '.move-preview');
    await page.keyboard.press('ArrowUp');
    await visitor.sees('desk-staff: on Friday, 01:30 to 05:30', '.move-preview');
    await page.keyboard.press('Escape');
    await page.waitForFunction(() => !document.querySelector('.move-preview'));
    expect((await rolloutOf('desk-staff'))?.revision).toBe(2);
  });

  it('that comes on every night stays, and it is said why', async () => {
    const { page } = visitor;
    const contact = await rolloutOf('contact-centre');
    if (!contact) throw new Error('contact-centre has no rollout');
    const window = { ...contact.plan.window, rule: 'FREQ=DAILY' };
    await app.api(`/rollouts/${contact.id}/plan`, {
      plan: { ...contact.plan, window },
      why: 'sooner',
      basedOn: contact.revision,
    });
    await open('/rollouts/calendar');
    await carry(
      await middleOf('.month-day.today + .month-day .planned', 'contact-centre'),
      await middleOf('.month-day', '30'),
    );
    await visitor.sees(
      'contact-centre stays: it is on every day; only its time of day can be moved',
      '.move-preview',
    );
    await page.keyboard.press('Escape');
    await page.mouse.up();
    expect((await rolloutOf('contact-centre'))?.plan.window.rule).toBe('FREQ=DAILY');
  });
});

describe('a schedule', () => {
  let lineId: string;

  it('collides with a rollout of the version before; both are named, and what comes of it', async () => {
    const pools = await app.api<PoolSummary[]>('/pools');
    const desk = pools.find(({ name }) => name === 'desk-staff');
    lineId =
      (await app.api<LineSummary[]>('/lines')).find(({ name }) => name === 'Staff multi-session')?.id ?? '';
    await put(`/lines/${lineId}/schedule`, {
      rule: 'FREQ=WEEKLY;BYDAY=FR',
      at: '20:00',
      zone: 'Europe/Dublin',
      takeUpdates: true,
      onlyIfChanged: true,
      leaveRunning: false,
      waitHours: 1,
      rollouts: [
        {
          poolId: desk?.id,
          window: { rule: 'FREQ=WEEKLY;BYDAY=SA', start: '01:00', end: '05:00' },
          batch: 8,
          maxUnavailable: 8,
          drainLimitMinutes: 15,
          reserve: null,
        },
      ],
      basedOn: 0,
    });
    await open('/rollouts/calendar');
    await visitor.sees('desk-staff to version 15 comes after the cut of Staff multi-session');
    await visitor.sees('the second waits until the first has ended');
    expect(await visitor.violations()).toEqual([]);
  });

  it('is moved by its cut: the next date is said, and kept as the next revision', async () => {
    await carry(await middleOf('.planned.cut', 'cut Staff'), await middleOf('.month-day', '24'));
    await visitor.sees(/the next cut is on Wed 24 Mar 20:00/, '.move-preview');
    await visitor.page.mouse.up();
    await visitor.sees('On Wednesday at 20:00, not on Friday at 20:00.');
    await visitor.click('Keep the schedule');
    await middleOf('.month-day', '24contact-centre01:00cut Staff');
    const kept = await app.api<KeptSchedule>(`/lines/${lineId}/schedule`);
    expect([kept.schedule?.rule, kept.revision]).toEqual(['FREQ=WEEKLY;BYDAY=WE', 2]);
  });
});
