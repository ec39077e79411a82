/**
 * What disks are to the machines that have them. `parent`: what linked clones share. `own`: the
 * whole disk of a full clone. `child`: what a clone has besides its parent. `clean`: the state that a
 * host returns to. `running`: what was written since. `memory`: what a suspended host had in its memory. The others
 * stand alone.
 */
export const diskRoles = [
  'build',
  'parent',
  'own',
  'child',
  'clean',
  'running',
  'swap',
  'data',
  'scratch',
  'memory',
] as const;
export type DiskRole = (typeof diskRoles)[number];
