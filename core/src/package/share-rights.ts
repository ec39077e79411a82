/** Who may do what on a share with containers, and what is wrong with that. */

export type ShareRight = 'write' | 'read' | 'nothing';

export interface ShareRights {
  readonly hosts: ShareRight;
  readonly packagers: ShareRight;
  readonly users: ShareRight;
}

/** Hosts read, users nothing, packagers write; anything else is a fault, worst first. */
export function rightsFaults({ hosts, packagers, users }: ShareRights): string[] {
  return [
    ...(hosts === 'nothing' ? ['hosts may not read it, so nothing on it can be attached'] : []),
    ...(hosts === 'write'
      ? ['hosts may write to it: one that is taken over changes what all others run']
      : []),
    ...(packagers === 'write' ? [] : ['packagers may not write to it, so nothing can be uploaded']),
    ...(users === 'nothing' ? [] : [`people may ${users} it, though only hosts have to`]),
  ];
}
