/** The lanes of rings that have not begun. */
import { takeInWords } from '@vatline/core/rollout/rings/take';
import type { RingsForecast } from '@vatline/contract/rings/order';
import type { PlannedRing, RingGate } from '@vatline/contract/rings/ring';
import type { Lane, Span } from './lane-times.ts';

interface Pool {
  readonly id: string;
  readonly name: string;
}

export function plannedLanes(
  rings: readonly PlannedRing[],
  pools: readonly Pool[],
  answer: RingsForecast | undefined,
): Lane[] {
  return rings.map((ring, i) => {
    const of = answer?.rings[i];
    const pool = pools.find((one) => one.id === ring.poolId)?.name ?? '';
    const isLast = i === rings.length - 1;
    return {
      name: ring.name,
      pool,
      note: of ? hostsInWords(of.hosts, of.poolHosts, pool) : takeInWords(ring.take),
      windows: of?.windows ?? [],
      from: inWindow(of?.opens.p50 ?? null, of?.windows ?? []),
      to: of?.finish.p50 ?? null,
      latest: of?.finish.p90 ?? null,
      done: 0,
      gate: isLast ? null : { does: 'planned', asks: gateInWords(ring.gate), at: gateAt(answer, i) },
    };
  });
}

/** A ring that is open waits for its window. */
export function inWindow(opens: number | null, windows: readonly Span[]): number | null {
  if (opens === null) return null;
  const first = windows.find((window) => window.end > opens);
  return Math.max(opens, first?.start ?? opens);
}

function hostsInWords(hosts: number, all: number, pool: string): string {
  return hosts === 0 ? `${pool}: all run it already` : `${pool}: ${hosts} of ${all} hosts`;
}

/** The next ring opens when the gate does; of rings without hosts nothing is known. */
function gateAt(answer: RingsForecast | undefined, number: number): number | null {
  return answer?.rings.slice(number + 1).find((ring) => ring.hosts > 0)?.opens.p50 ?? null;
}

/** `all hosts done, 48 h of soak, an approval`. */
export function gateInWords({ finishedShare, soakHours, needsApproval, watchesSignIns }: RingGate): string {
  const parts = [
    finishedShare === 1 ? 'all hosts done' : `${Math.round(finishedShare * 100)} % of the hosts done`,
    soakHours > 0 ? `${soakHours} h of soak` : undefined,
    watchesSignIns ? 'sign-ins as quick as before' : undefined,
    needsApproval ? 'an approval' : undefined,
  ];
  return parts.filter((part) => part !== undefined).join(', ');
}
