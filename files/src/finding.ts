/** One thing that was checked, and whether it holds. */
export interface Finding {
  readonly holds: boolean;
  /** What it is about, a colon, and what was found. */
  readonly what: string;
  /** Of those that not everybody counts. */
  readonly kind?: FindingKind;
}

/** Whether a signature leads to somebody trusted; whether every host can keep the names. */
export type FindingKind = 'chain' | 'names';

export const held = (what: string, kind?: FindingKind): Finding => finding(true, what, kind);
export const failed = (what: string, kind?: FindingKind): Finding => finding(false, what, kind);

function finding(holds: boolean, what: string, kind?: FindingKind): Finding {
  return { holds, what, ...(kind ? { kind } : {}) };
}
