/** The gate before a ring, a rollout that follows others: whether all that came before it have ended well. */

/** One that comes before in the chain. */
export interface Before {
  /** Of its pool. */
  readonly name: string;
  /** Of the ring itself: `done` when every host ran the version already. */
  readonly state: 'waiting' | 'started' | 'done' | 'stopped' | 'dropped';
  /** Of its rollout, once it was started. */
  readonly rollout: 'asleep' | 'at work' | 'stopped' | 'done' | null;
  /** Hosts that were given up in it. */
  readonly setAside: number;
}

export type Verdict =
  | { readonly do: 'start' }
  /** It may still become well. */
  | { readonly do: 'wait'; readonly why: string }
  /** It cannot any more. */
  | { readonly do: 'drop'; readonly why: string };

/** Those before it, in their order; the first that is not well decides. */
export function gate(before: readonly Before[]): Verdict {
  for (const one of before) {
    const verdict = of(one);
    if (verdict.do !== 'start') return verdict;
  }
  return { do: 'start' };
}

function of({ name, state, rollout, setAside }: Before): Verdict {
  if (state === 'dropped') return { do: 'drop', why: `${name} before it was dropped` };
  if (state === 'waiting') return { do: 'wait', why: `${name} has not begun` };
  if (state === 'done') return { do: 'start' };
  if (state === 'stopped' || rollout === 'stopped')
    return { do: 'drop', why: `${name} before it was stopped` };
  if (rollout !== 'done') return { do: 'wait', why: `${name} is not done` };
  if (setAside > 0)
    return {
      do: 'drop',
      why: setAside === 1 ? `a host of ${name} was set aside` : `${setAside} hosts of ${name} were set aside`,
    };
  return { do: 'start' };
}
