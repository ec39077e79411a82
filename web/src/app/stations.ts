/** The top-level areas, in the order of work. */
export const stations = [
  { path: 'images', name: 'Images' },
  { path: 'packages', name: 'Packages' },
  { path: 'pools', name: 'Pools' },
  { path: 'rollouts', name: 'Rollouts' },
  { path: 'access', name: 'Access' },
  { path: 'estate', name: 'Estate' },
] as const;
