/** A rollout that is changed while it runs, as a person does it. */
import { cleanup, screen } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { Rollout } from '@vatline/contract/rollout';
import { ChangePlan } from '../../src/rollouts/change-plan.tsx';
import { GoOnButton, PauseButton } from '../../src/rollouts/pause.tsx';
import { PlanRevisions } from '../../src/rollouts/plan-revisions.tsx';
import { EIGHT, refusal, shown, type Answers } from './shown.tsx';
import { usualPlan } from './usual-plan.ts';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const HOUR = 3_600_000;
const plan = { ...usualPlan, reserve: null };
const rollout = {
  id: 'r1',
  pool: 'desk-staff',
  plan,
  revision: 3,
  atWork: 2,
  expectedAt: EIGHT + 20 * HOUR,
} as unknown as Rollout;
const preview = (says: string[], p90: number | null) => ({
  says,
  finish: { p10: p90, p50: p90, p90 },
  minSeatsLeft: { p10: -3, p50: 0, p90: 0 },
  windowsUsed: { p10: 1, p50: 1, p90: 1 },
  binding: 'max unavailable',
});
const path = '/rollouts/r1';

function change(answers: Answers = {}) {
  const close = vi.fn();
  const view = shown(<ChangePlan rollout={rollout} close={close} />, {
    'GET /calendars': [],
    [`POST ${path}/plan/preview`]: (body: unknown) => {
      const { batch } = body as { batch: number };
      return batch === 4 ? preview([], EIGHT + 20 * HOUR) : preview(['hosts at a time'], EIGHT + 18 * HOUR);
    },
    ...answers,
  });
  return { ...view, close };
}

const batch = () => screen.getByRole('spinbutton', { name: /Hosts at a time/ });

describe('another plan', () => {
  it('says what is left would be done by, against as it is; nothing to do where it is the same', async () => {
    const { user } = change();
    expect((await screen.findByRole('status')).textContent).toBe(
      'What is left is done by 04:00 tonight (9 in 10), 3 seats short at the worst moment. Held back most by the most that may be out of service.',
    );
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Go on like this' }).disabled).toBe(true);
    await user.clear(batch());
    await user.type(batch(), '8');
    await vi.waitFor(() =>
      expect(screen.getByRole('status').textContent).toBe(
        'What is left is done by 02:00 tonight (9 in 10), 3 seats short at the worst moment; as it is, by 04:00 tonight (9 in 10). Held back most by the most that may be out of service.',
      ),
    );
  });

  it('is sent with its reason and the revision that it was made from', async () => {
    const { user, sent, close } = change({ [`POST ${path}/plan`]: { done: true } });
    await user.clear(await screen.findByRole('spinbutton', { name: /Hosts at a time/ }));
    await user.type(batch(), '8');
    await user.type(screen.getByRole('textbox', { name: 'Why' }), 'opens early');
    await vi.waitFor(() =>
      expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Go on like this' }).disabled).toBe(false),
    );
    await user.click(screen.getByRole('button', { name: 'Go on like this' }));
    await vi.waitFor(() => expect(close).toHaveBeenCalled());
    expect(sent.find((one) => one.call === `POST ${path}/plan`)?.body).toEqual({
      plan: { ...plan, batch: 8 },
      why: 'opens early',
      basedOn: 3,
    });
  });

  it('that somebody else overtook stays open with what they changed', async () => {
    const { user, close } = change({
      [`POST ${path}/plan`]: refusal({ plan: 'was changed meanwhile: paused (operator)' }, 409),
    });
    await user.clear(await screen.findByRole('spinbutton', { name: /Hosts at a time/ }));
    await user.type(batch(), '8');
    await user.type(screen.getByRole('textbox', { name: 'Why' }), 'opens early');
    await user.click(screen.getByRole('button', { name: 'Go on like this' }));
    expect(await screen.findByText(/was changed meanwhile: paused \(operator\)/)).toBeTruthy();
    expect(close).not.toHaveBeenCalled();
  });

  it('that is wrong says so at its field', async () => {
    change({ [`POST ${path}/plan/preview`]: refusal({ batch: 'is more than the hosts' }) });
    const alert = await screen.findByRole('alert');
    expect(alert.closest('.field')?.querySelector('.field-label')?.textContent).toBe('Hosts at a time');
  });
});

describe('a pause', () => {
  it('asks why, and says what happens to hosts at work', async () => {
    const { user, sent } = shown(<PauseButton rollout={rollout} />, {
      [`POST ${path}/pause`]: { done: true },
    });
    await user.click(screen.getByRole('button', { name: 'Pause' }));
    expect(await screen.findByText('2 hosts at work are finished.')).toBeTruthy();
    await user.type(screen.getByRole('textbox', { name: 'Why pause' }), 'exams');
    await user.click(screen.getByRole('button', { name: 'Pause it' }));
    expect(sent.find((one) => one.call === `POST ${path}/pause`)?.body).toEqual({ why: 'exams' });
  });

  it('without a reason says so at its field', async () => {
    const { user } = shown(<PauseButton rollout={rollout} />, {
      [`POST ${path}/pause`]: refusal({ why: 'The reason is empty' }),
    });
    await user.click(screen.getByRole('button', { name: 'Pause' }));
    await user.click(await screen.findByRole('button', { name: 'Pause it' }));
    expect((await screen.findByRole('alert')).textContent).toContain('The reason is empty');
  });

  it('ends by one press', async () => {
    const { user, sent } = shown(<GoOnButton rollout={rollout} />, {
      [`POST ${path}/go-on`]: { done: true },
    });
    await user.click(screen.getByRole('button', { name: 'Go on' }));
    await vi.waitFor(() => expect(sent.map((one) => one.call)).toContain(`POST ${path}/go-on`));
  });
});

describe('what was changed', () => {
  it('stands with who, when, why and what was expected then; the first plan is no change', async () => {
    const one = (number: number, more: object) => ({
      number,
      at: EIGHT,
      by: null,
      says: '',
      why: '',
      plan,
      expectedAt: null,
      ...more,
    });
    shown(<PlanRevisions rollout={rollout} />, {
      [`GET ${path}/revisions`]: [
        one(3, { says: 'hosts at a time 2 → 4', why: 'early', by: 'operator', expectedAt: EIGHT + HOUR }),
        one(2, { says: 'goes on', by: 'engineer' }),
        one(1, {}),
      ],
    });
    await screen.findByText(/Hosts at a time/);
    expect([...document.querySelectorAll('li')].map((row) => row.textContent)).toEqual([
      'Hosts at a time 2 → 4 “early”, operator, Mon 22 Mar 08:00; then to be done by Mon 22 Mar 09:00',
      'Goes on engineer, Mon 22 Mar 08:00',
    ]);
  });
});
