/** Which versions of a line are kept, which may go, and how much space that frees. */

export interface KeptVersion {
  readonly id: string;
  readonly number: number;
  readonly sizeBytes: number;
  /** What needs it, in words; nothing when it is free. */
  readonly neededBy: readonly string[];
}

export interface RetentionRow {
  readonly version: KeptVersion;
  readonly goes: boolean;
  /** Why it is kept, or that nothing keeps it. */
  readonly why: string;
}

export interface RetentionPlan {
  /** Newest first. */
  readonly rows: readonly RetentionRow[];
  readonly goes: number;
  readonly freedBytes: number;
}

/** Keeps the newest `keep` versions and every one that something needs. */
export function planRetention(versions: readonly KeptVersion[], keep: number): RetentionPlan {
  const newestFirst = [...versions].sort((a, b) => b.number - a.number);
  const rows = newestFirst.map((version, place): RetentionRow => {
    if (version.neededBy.length > 0) return { version, goes: false, why: version.neededBy.join(', ') };
    if (place < keep)
      return { version, goes: false, why: keep === 1 ? 'the newest' : `one of the newest ${keep}` };
    return { version, goes: true, why: 'nothing needs it' };
  });
  const going = rows.filter((row) => row.goes);
  return {
    rows,
    goes: going.length,
    freedBytes: going.reduce((sum, row) => sum + row.version.sizeBytes, 0),
  };
}
