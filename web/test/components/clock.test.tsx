/** The clock as it is seen and set: speeds, being sent ahead, and what waits for it. */
import { cleanup, screen } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { ClockFace } from '../../src/parts/clock-face.tsx';
import { WaitsForClock } from '../../src/parts/waits-for-clock.tsx';
import { useEstateTime } from '../../src/shell/clock.ts';
import { clock, EIGHT, refusal, shown } from './shown.tsx';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const Face = () => <ClockFace clock={useEstateTime()} />;
const HOUR = 3_600_000;

describe('the face', () => {
  it('tells the time of the estate, and which speed it has', async () => {
    shown(<Face />, { 'GET /estate/clock': clock({ rate: 60 }) });
    expect(await screen.findByText('08:00')).toBeTruthy();
    expect(screen.getByText('Mon 22 March 2027')).toBeTruthy();
    const pressed = screen
      .getAllByRole('button')
      .filter((one) => one.getAttribute('aria-pressed') === 'true');
    expect(pressed.map((one) => one.textContent)).toEqual(['60×']);
  });

  it('sets the speed that is clicked', async () => {
    const { sent, user } = shown(<Face />, { 'POST /estate/clock': clock({ rate: 600 }) });
    await user.click(await screen.findByText('600×'));
    expect(sent).toEqual([{ call: 'POST /estate/clock', body: { action: 'rate', rate: 600 } }]);
  });

  it('says where it is sent to, and stops it there on request', async () => {
    const { sent, user } = shown(<Face />, {
      'GET /estate/clock': clock({ rate: 0, jumpingTo: EIGHT + 21 * HOUR }),
      'POST /estate/clock': clock({ rate: 0 }),
    });
    expect(await screen.findByText('to 05:00 tonight')).toBeTruthy();
    expect(screen.queryByText('600×')).toBeNull();
    await user.click(screen.getByText('stop here'));
    expect(sent).toEqual([{ call: 'POST /estate/clock', body: { action: 'stop' } }]);
  });

  it('says that nothing is planned where there is nowhere to go, and how, until it was read', async () => {
    const detail = 'Nothing is planned and nothing is under way, so there is no next event';
    const { user } = shown(<Face />, { 'POST /estate/clock': refusal({ '': detail }, 409) });
    await user.click(await screen.findByRole('button', { name: 'To the next event' }));
    const said = await screen.findByText('nothing is planned');
    expect(said.getAttribute('title')).toContain(detail);
    await user.click(said);
    expect(screen.queryByText('nothing is planned')).toBeNull();
  });
});

describe('what waits for the clock', () => {
  const note = () => screen.queryByText(/clock is paused, so this rollout goes no further/);

  it('says so while that is paused, and runs it', async () => {
    const { sent, user } = shown(<WaitsForClock what="this rollout" />, {
      'GET /estate/clock': clock({ rate: 0 }),
      'POST /estate/clock': clock({ rate: 60 }),
    });
    await vi.waitFor(() => expect(note()).toBeTruthy());
    await user.click(screen.getByRole('button', { name: 'Run it at 60×' }));
    expect(sent).toEqual([{ call: 'POST /estate/clock', body: { action: 'rate', rate: 60 } }]);
  });

  it.each([
    ['runs', clock({ rate: 1 })],
    ['is on its way', clock({ rate: 0, jumpingTo: EIGHT + HOUR })],
  ])('says nothing while that %s', async (_what, state) => {
    shown(
      <>
        <Face />
        <WaitsForClock what="this rollout" />
      </>,
      { 'GET /estate/clock': state },
    );
    await screen.findByText('08:00');
    expect(note()).toBeNull();
  });
});
