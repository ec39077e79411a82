import type { ImageVersion } from '@vatline/contract/image';

export interface PoolRuns {
  readonly pool: string;
  readonly hosts: number;
  /** Versions on its hosts, the newest first. */
  readonly runs: readonly { readonly version: ImageVersion; readonly hosts: number }[];
}

/** On how many hosts of each pool each version runs; pools by name. */
export function hostsByPool({ versions }: { readonly versions: readonly ImageVersion[] }): PoolRuns[] {
  const names = [...new Set(versions.flatMap((version) => version.usedBy.map(({ pool }) => pool)))].sort();
  return names.map((pool) => {
    const runs = versions
      .map((version) => ({ version, hosts: version.usedBy.find((use) => use.pool === pool)?.hosts ?? 0 }))
      .filter(({ hosts }) => hosts > 0)
      .sort((a, b) => b.version.number - a.version.number);
    return { pool, hosts: runs.reduce((sum, { hosts }) => sum + hosts, 0), runs };
  });
}
