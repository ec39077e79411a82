/**
 * The gate behind a ring: what has to hold before the next one opens. The forecast counts with the
 * same rules; here they are asked about a ring that runs. See `docs/models.md`, "Gates".
 */
import { HOUR, type Instant } from '../../time/instant.ts';

export interface GateRules {
  /** Share of the ring's hosts that must be done, above 0 to 1, counted up to a whole host. */
  readonly finishedShare: number;
  /** Hours from then on for which the done ones are watched. */
  readonly soakHours: number;
  /** Whether somebody else than the maker has to let the next ring begin. */
  readonly needsApproval: boolean;
  /** Whether slower sign-ins on the changed hosts hold it. */
  readonly watchesSignIns: boolean;
}

/** `refuse` holds it; `open anyway` opens it against everything but a ring that has not begun. */
export const decisions = ['approve', 'refuse', 'open anyway'] as const;
export type Decision = (typeof decisions)[number];

/** How a ring stands. */
export interface RingStanding {
  readonly name: string;
  /** `done` when every host ran it already. */
  readonly state: 'waiting' | 'started' | 'done' | 'dropped';
  /** Hosts that it had to change. */
  readonly hosts: number;
  readonly done: number;
  /** Hosts that were given up. */
  readonly setAside: number;
  /** Of its rollout. */
  readonly hasEnded: boolean;
  readonly isStopped: boolean;
  readonly isPaused: boolean;
  /** Why its failure rule paused it, in words; null where it did not. */
  readonly failing: string | null;
  /** When the share was reached; null while it is not. */
  readonly reachedAt: Instant | null;
  /** What was decided last; null for nothing. */
  readonly decision: { readonly what: Decision; readonly why: string } | null;
  /** What is wrong with sign-ins on the changed hosts, in words; null for nothing. */
  readonly slower: string | null;
  /** Why sign-ins cannot be judged yet, in words; null where they can, or nobody watches them. */
  readonly unjudged: string | null;
  /** Whether the next ring is of the same pool, which takes one rollout at a time. */
  readonly nextIsSamePool: boolean;
  /** A gate that somebody has gone through is open, whatever happens behind them. */
  readonly nextHasBegun: boolean;
}

export type Verdict =
  | { readonly do: 'open'; readonly why: string }
  /** It may still hold by itself; until when at least, where that is known. */
  | {
      readonly do: 'wait';
      readonly for: 'hosts' | 'soak' | 'approval';
      readonly why: string;
      readonly until: Instant | null;
    }
  /** It does not open any more unless somebody opens it. */
  | { readonly do: 'hold'; readonly why: string };

/** Hosts that have to be done. The tenth of a tenth that computers add to a share is none. */
export function hostsNeeded(hosts: number, finishedShare: number): number {
  return Math.ceil(finishedShare * hosts - 1e-9);
}

export function gateVerdict(ring: RingStanding, rules: GateRules, now: Instant): Verdict {
  const isAnyway = ring.decision?.what === 'open anyway';
  if (ring.nextHasBegun) return opens(isAnyway ? `opened anyway: ${ring.decision.why}` : '');
  const held = heldFor(ring, rules);
  const isBusy = ring.nextIsSamePool && ring.state === 'started' && !ring.hasEnded;
  if (isAnyway && ring.state !== 'waiting')
    return isBusy
      ? waits('hosts', `${ring.name} is not ended`)
      : opens(`opened anyway: ${ring.decision.why}`);
  if (held !== undefined) return { do: 'hold', why: held };
  if (ring.reachedAt === null) return waitsForHosts(ring, rules);
  const soaked = soakedAt(ring.reachedAt, ring.state, rules);
  if (now < soaked) return { do: 'wait', for: 'soak', why: `${ring.name} soaks`, until: soaked };
  if (ring.unjudged !== null)
    return { do: 'wait', for: 'soak', why: `${ring.name}: ${ring.unjudged}`, until: null };
  if (rules.needsApproval && ring.decision?.what !== 'approve')
    return waits('approval', `${ring.name} waits for an approval`);
  // The rest of the pool is not begun before the first part is through.
  if (isBusy) return waits('hosts', `${ring.name} is not ended`);
  return opens('');
}

/** When the soak ends. Hosts that ran it already have nothing new to be watched for. */
export function soakedAt(
  reachedAt: Instant,
  state: RingStanding['state'],
  { soakHours }: Pick<GateRules, 'soakHours'>,
): Instant {
  return state === 'done' ? reachedAt : reachedAt + soakHours * HOUR;
}

/** Why it does not open by itself; undefined while it may. */
function heldFor(ring: RingStanding, { finishedShare }: GateRules): string | undefined {
  const { name, hosts, done, setAside } = ring;
  if (ring.state === 'dropped') return `${name} was dropped`;
  if (ring.decision?.what === 'refuse') return `refused: ${ring.decision.why}`;
  if (ring.isStopped) return `${name} was stopped`;
  const needed = hostsNeeded(hosts, finishedShare);
  if (ring.hasEnded && done < needed) {
    const lost = setAside > 0 ? `; ${setAside} set aside` : '';
    return `${done} of ${hosts} hosts of ${name} are done, ${needed} are needed${lost}`;
  }
  if (ring.failing !== null) return `${name}: ${ring.failing}`;
  return ring.slower === null ? undefined : `${name}: ${ring.slower}`;
}

function waitsForHosts({ name, state, done, hosts, isPaused }: RingStanding, rules: GateRules): Verdict {
  if (state === 'waiting') return waits('hosts', `${name} has not begun`);
  if (isPaused) return waits('hosts', `${name} is paused`);
  const needed = hostsNeeded(hosts, rules.finishedShare);
  return waits('hosts', `${done} of ${hosts} hosts of ${name} are done, ${needed} are needed`);
}

function waits(what: 'hosts' | 'approval', why: string): Verdict {
  return { do: 'wait', for: what, why, until: null };
}

function opens(why: string): Verdict {
  return { do: 'open', why };
}
