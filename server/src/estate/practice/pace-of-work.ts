/** Minutes that the practice estate takes for things: median and 90th percentile. */
type Minutes = readonly [number, number];

export const minutesOf = {
  clone: { full: [14, 19], linked: [4, 6], network: [3, 4] } as Record<
    'full' | 'linked' | 'network',
    Minutes
  >,
  rebuild: { full: [22, 29], linked: [9, 13], network: [4, 6] } as Record<
    'full' | 'linked' | 'network',
    Minutes
  >,
  /** People who look at a request. */
  quota: [45, 120] as Minutes,
  /** A provider makes networks, stores and an account to make machines with. */
  addSite: [9, 14] as Minutes,
  /** A start, a stop, a restart. */
  power: [1, 1.3] as Minutes,
  suspend: [0.4, 0.6] as Minutes,
  resume: [0.3, 0.4] as Minutes,
  /** A physical machine gets its name and network, and starts from the network. */
  associate: [3, 4] as Minutes,
  revert: [1, 1.4] as Minutes,
  copy: [6, 8] as Minutes,
  generalise: [4, 5] as Minutes,
  capture: [5, 7] as Minutes,
  join: [2, 3] as Minutes,
  register: [0.5, 1] as Minutes,
  install: [4, 5] as Minutes,
  restart: [2, 3] as Minutes,
};
