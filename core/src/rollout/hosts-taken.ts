/** Which hosts of a pool a rollout takes. */

export interface HostChoice {
  /** Made anew, whatever they run: a remake. */
  readonly isRemake: boolean;
  /** Only these, by name; all of the pool where there are none. */
  readonly onlyHosts: readonly string[];
}

/** All hosts that run something else: what a rollout takes unless somebody says otherwise. */
export const allThatDiffer: { readonly isRemake: false; readonly onlyHosts: string[] } = {
  isRemake: false,
  onlyHosts: [],
};

export interface TakenHost {
  readonly name: string;
  /** Whether it runs exactly what is wanted, and nothing of it is in doubt. */
  readonly isAsWanted: boolean;
}

/** In the order in which they were given. */
export function hostsTaken<H extends TakenHost>(
  hosts: readonly H[],
  { isRemake, onlyHosts }: HostChoice,
): H[] {
  const only = new Set(onlyHosts);
  return hosts.filter((host) => (only.size === 0 || only.has(host.name)) && (isRemake || !host.isAsWanted));
}
