/** One thing that was checked, and whether it holds. */
export interface Finding {
  readonly holds: boolean;
  /** What it is about, a colon, and what was found. */
  readonly what: string;
}

export const held = (what: string): Finding => ({ holds: true, what });
export const failed = (what: string): Finding => ({ holds: false, what });
