/** The forecast beside a plan: its middle at once, then how sure it is; nobody waits for the plan before. */
import { cleanup, screen } from '@testing-library/react';
import { useState } from 'react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { usePlanForecast } from '../../src/rollouts/use-forecast.ts';
import { refusal, shown } from './shown.tsx';
import { usualRequest } from './usual-plan.ts';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const first = usualRequest;

function Shown() {
  const [batch, setBatch] = useState(4);
  // Put together anew at each drawing, as the plan bench does before anything was changed.
  const { answer, isWhole, problem } = usePlanForecast({ ...first, batch });
  return (
    <>
      <button type="button" onClick={() => setBatch(batch + 1)}>
        more
      </button>
      <p>{problem ? problem.detail : `${answer?.runs ?? 'no'} runs, ${isWhole ? 'whole' : 'not whole'}`}</p>
    </>
  );
}

describe('the forecast of a plan', () => {
  it('is that of one run until the whole is there', async () => {
    let giveWhole: () => void = () => undefined;
    const whole = new Promise<void>((given) => (giveWhole = given));
    const { sent } = shown(<Shown />, {
      'POST /rollouts/forecast': async (body: unknown) => {
        const { runs } = body as { runs?: number };
        if (runs === undefined) await whole;
        return { runs: runs ?? 1_000 };
      },
    });
    expect(await screen.findByText('1 runs, not whole')).toBeTruthy();
    giveWhole();
    expect(await screen.findByText('1000 runs, whole')).toBeTruthy();
    expect(sent.filter((one) => one.call === 'POST /rollouts/forecast')).toHaveLength(2);
  });

  it('of the plan before stays until there is another, and is not waited for', async () => {
    const { user } = shown(<Shown />, {
      'POST /rollouts/forecast': async (body: unknown) => {
        const { runs, batch } = body as { runs?: number; batch: number };
        if (runs === undefined && batch === 4) await new Promise(() => undefined);
        return { runs: batch * 10 + (runs ?? 0) };
      },
    });
    expect(await screen.findByText('41 runs, not whole')).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'more' }));
    expect(await screen.findByText('50 runs, whole')).toBeTruthy();
  });

  it('is a reason where there is none', async () => {
    shown(<Shown />, { 'POST /rollouts/forecast': refusal({ batch: 'is too many' }) });
    expect(await screen.findByText(/refused|is too many/)).toBeTruthy();
  });
});
