/** The lanes of a rollout through rings that has begun: what has been, and what is left as forecast now. */
import type { StagedRing, StagedRollout } from '@vatline/contract/rings/staged';
import type { Lane, LaneGate } from './lane-times.ts';
import { gateInWords, inWindow } from './planned-lanes.ts';

export function stagedLanes({ rings }: Pick<StagedRollout, 'rings'>): Lane[] {
  return rings.map((ring, i) => ({
    name: ring.planned.name,
    pool: ring.pool,
    note: ringInWords(ring),
    windows: ring.windows,
    ...timesOf(ring),
    done: ring.hosts === 0 ? 1 : ring.done / ring.hosts,
    gate: i === rings.length - 1 ? null : gateOf(ring, rings[i + 1]),
  }));
}

/** What has been is as it was; of what is left the forecast of now, and of what waits for somebody the promise. */
function timesOf(ring: StagedRing): Pick<Lane, 'from' | 'to' | 'latest'> {
  const { workedFrom, endedAt, expected, promised, state, beganAt, windows } = ring;
  if (state === 'dropped') return { from: null, to: null, latest: null };
  const finish = expected?.finish ?? promised.finish;
  const from = workedFrom ?? inWindow(beganAt ?? expected?.opens.p50 ?? promised.opens, windows);
  return { from, to: endedAt ?? finish.p50, latest: endedAt ?? finish.p90 };
}

function gateOf({ gate, planned, state }: StagedRing, next: StagedRing | undefined): LaneGate {
  const at = next?.beganAt ?? next?.expected?.opens.p50 ?? gate.until ?? next?.promised.opens ?? null;
  const isAhead = gate.does === 'wait' && (state === 'waiting' || gate.for === 'hosts');
  return { does: isAhead ? 'planned' : gate.does, asks: gateInWords(planned.gate), at };
}

/** `desk-staff: 6 of 24 done`. */
export function ringInWords({
  state,
  pool,
  hosts,
  done,
  note,
  failed,
  setAside,
  isPaused,
}: StagedRing): string {
  switch (state) {
    case 'waiting':
      return note === '' ? `${pool}: ${hosts} to change` : `${pool}: ${note}`;
    case 'done':
      return `${pool}: ${note}`;
    case 'dropped':
      return `${pool}: dropped, ${note}`;
    case 'started': {
      const lost = failed + setAside;
      const more = [lost > 0 ? `${lost} failed` : '', isPaused ? 'paused' : ''].filter(Boolean);
      return [`${pool}: ${done} of ${hosts} done`, ...more].join(', ');
    }
  }
}
