/** The further pages of each station, in the order of their row under the line: at most nine. */
export interface Siding {
  /** Behind the station's address; empty for the station itself. */
  readonly path: string;
  readonly name: string;
}

export const sidings: Readonly<Record<string, readonly Siding[]>> = {
  images: [
    { path: '', name: 'Image lines' },
    { path: 'lineage', name: 'Lineage' },
    { path: 'fragments', name: 'Fragments' },
    { path: 'applications', name: 'Where is an application?' },
  ],
  packages: [
    { path: '', name: 'Applications' },
    { path: 'installed', name: 'Installed by agents' },
    { path: 'options', name: 'Option sheets' },
    { path: 'clashes', name: 'Clashes' },
    { path: 'shares', name: 'File shares' },
    { path: 'certificates', name: 'Signing certificates' },
    { path: 'rules', name: 'Noise rules' },
    { path: 'bulk', name: 'Many at once' },
  ],
  pools: [
    { path: '', name: 'Host pools' },
    { path: 'datastores', name: 'Datastores' },
    { path: 'streaming', name: 'Streaming' },
    { path: 'chassis', name: 'Chassis' },
    { path: 'directory', name: 'Directory' },
  ],
  rollouts: [
    { path: '', name: 'Rollouts' },
    { path: 'calendar', name: 'Calendar' },
    { path: 'ahead', name: 'What changes' },
    { path: 'blends', name: 'Blends' },
    { path: 'rings', name: 'Rings' },
    { path: 'promises', name: 'Promises' },
    { path: 'drift', name: 'Drift' },
  ],
  estate: [
    { path: '', name: 'Outside systems' },
    { path: 'capacity', name: 'Capacity' },
  ],
};

/** The pages beside an address, and which of them it is on; the station's own where it is on none of them. */
export function sidingsAt(pathname: string): {
  readonly station: string;
  readonly pages: readonly Siding[];
  readonly open: string;
} {
  const [station = '', page = ''] = pathname.split('/').filter(Boolean);
  const pages = sidings[station] ?? [];
  const open = pages.some((siding) => siding.path === page) ? page : '';
  return { station, pages, open };
}
