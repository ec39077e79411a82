/** The clock of the estate over HTTP: its speed, and sending it ahead. */
import { estateEndpoints, type Clock, type ClockChange } from '@vatline/contract/estate';
import { actingAs } from '../platform/acting.ts';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict } from '../platform/problem.ts';
import { practiceOnly } from '../platform/practice-only.ts';

/** `windowEnd` gives the end of the window that is open or comes next, over all rollouts. */
export function clockRoutes(door: Door, parts: Parts, windowEnd: () => Promise<number | null>): void {
  const { estate, control } = parts;
  const clock = (): Clock => ({
    now: estate.clock.now(),
    zone: estate.clock.zone,
    rate: control?.rate ?? 1,
    jumpingTo: control?.jumpingTo ?? null,
    trouble: parts.trouble.current,
  });

  door.serve(estateEndpoints.clock, clock);

  door.serve(estateEndpoints.setClock, async ({ body }) => {
    // What the clock leads to from here on is nobody's doing.
    await actingAs(undefined, () => setClock(parts, body, windowEnd));
    return clock();
  });
}

async function setClock(
  parts: Parts,
  body: ClockChange,
  windowEnd: () => Promise<number | null>,
): Promise<void> {
  const control = practiceOnly(parts);
  switch (body.action) {
    case 'rate':
      return control.setRate(body.rate);
    case 'stop':
      return control.stopJump();
    case 'next event': {
      const next = await control.nextEvent();
      if (next === null)
        throw conflict('Nothing is planned and nothing is under way, so there is no next event');
      return control.jumpTo(next);
    }
    case 'end of window': {
      const end = await windowEnd();
      if (end === null) throw conflict('No rollout is open, so there is no window to go to the end of');
      return control.jumpTo(end);
    }
  }
}
