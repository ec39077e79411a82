/** The gate behind a ring as a person meets it: what it says, who may decide, and what is sent. */
import { cleanup, screen } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { StagedRing, StagedRollout } from '@vatline/contract/rings/staged';
import { GateBox } from '../../src/rollouts/rings/gate-box.tsx';
import { EIGHT, refusal, shown, type Answers } from './shown.tsx';
import { usualPlan } from './usual-plan.ts';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const HOUR = 3_600_000;
const path = '/staged-rollouts/s1';
const waits: StagedRing['gate'] = {
  does: 'wait',
  for: 'approval',
  why: 'Pilot waits for an approval',
  until: null,
  decisions: [],
  health: {
    changed: { signIns: 120, median: 19.4, p95: 31.2 },
    earlier: { signIns: 340, median: 18.9, p95: 33 },
    p: 0.231,
    isSlower: false,
  },
};
const ring = (gate: Partial<StagedRing['gate']> = {}, needsApproval = true) =>
  ({
    number: 0,
    pool: 'pilot-bench',
    planned: {
      name: 'Pilot',
      poolId: 'p1',
      take: { by: 'rest' },
      plan: usualPlan,
      gate: { finishedShare: 1, soakHours: 48, needsApproval, watchesSignIns: true, goesBack: false },
    },
    state: 'started',
    hosts: 6,
    done: 6,
    failed: 0,
    setAside: 0,
    gate: { ...waits, ...gate },
  }) as unknown as StagedRing;
const staged = (change: Partial<StagedRollout> = {}) =>
  ({ id: 's1', state: 'under way', heldWhy: '', endedAt: null, ...change }) as StagedRollout;

function gateBox(of: StagedRing, { role = 'approver', ...answers }: Answers & { role?: string } = {}) {
  return shown(<GateBox staged={staged()} ring={of} />, {
    'GET /caller': { role },
    [`POST ${path}/gate`]: { done: true },
    ...answers,
  });
}

describe('the gate behind a ring', () => {
  it('says what it waits for, with the evidence', async () => {
    gateBox(ring());
    await screen.findByText('Pilot waits for an approval');
    screen.getByText('all hosts done, 48 h of soak, sign-ins as quick as before, an approval');
    screen.getByText('6 of 6 done, 0 failed');
    screen.getByText(/19 s against 19 s in the middle, 31 s against 33 s for the slowest twentieth/);
    screen.getByText(/120 and 340 sign-ins, p = 0\.231/);
  });

  it('is approved with a reason, by how many decisions were seen', async () => {
    const decisions = [{ what: 'refuse', by: 'approver', at: EIGHT - HOUR, why: 'too early' } as const];
    const { user, sent } = gateBox(ring({ decisions }));
    await screen.findByText('too early');
    await user.type(await screen.findByLabelText('Why decide so'), 'six hosts, no complaints');
    await user.click(screen.getByRole('button', { name: 'Approve' }));
    await vi.waitFor(() =>
      expect(sent).toContainEqual({
        call: `POST ${path}/gate`,
        body: { ring: 0, what: 'approve', why: 'six hosts, no complaints', seen: 1 },
      }),
    );
  });

  it('keeps what was written when it is refused, and says why', async () => {
    const { user } = gateBox(ring(), {
      [`POST ${path}/gate`]: () => refusal({ what: 'somebody else than its maker decides' }),
    });
    await user.type(await screen.findByLabelText('Why decide so'), 'mine');
    await user.click(screen.getByRole('button', { name: 'Approve' }));
    await screen.findByText('somebody else than its maker decides');
    expect((screen.getByLabelText('Why decide so') as HTMLInputElement).value).toBe('mine');
  });

  it('lets nobody else decide', async () => {
    gateBox(ring(), { role: 'engineer' });
    await screen.findByText('An approver decides here, who did not begin the rollout.');
    expect(screen.queryByRole('button', { name: 'Approve' })).toBeNull();
  });

  it('that holds is opened only in so many words', async () => {
    const { user, sent } = gateBox(ring({ does: 'hold', for: null, why: '2 of 6 hosts failed' }));
    await screen.findByText('Held: 2 of 6 hosts failed');
    expect(screen.queryByRole('button', { name: 'Approve' })).toBeNull();
    await user.type(await screen.findByLabelText('Why decide so'), 'known');
    await user.click(screen.getByRole('button', { name: 'Open it anyway' }));
    await vi.waitFor(() =>
      expect(sent.at(-1)?.body ?? sent.at(-2)?.body).toMatchObject({ what: 'open anyway', why: 'known' }),
    );
  });

  it('that asks for nobody can still be refused, but not approved', async () => {
    gateBox(ring({ for: 'soak', why: 'Pilot soaks', until: EIGHT + 26 * HOUR }, false));
    await screen.findByRole('button', { name: 'Refuse' });
    screen.getByText(/until Tue 23 Mar 10:00/);
    expect(screen.queryByRole('button', { name: 'Approve' })).toBeNull();
  });

  it('that was gone through, or of a rollout that is over, asks for nothing', async () => {
    gateBox(ring({ does: 'open', for: null, why: 'opened anyway: known' }));
    await screen.findByText('Open: opened anyway: known');
    expect(screen.queryByLabelText('Why decide so')).toBeNull();
  });
});
