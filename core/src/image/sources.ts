/** What an estate has to build from: the answer to "which is the newest?". */
export interface BuildSources {
  readonly media: readonly {
    readonly system: string;
    readonly editions: readonly string[];
    /** SHA-256, hex. */
    readonly digest: string;
  }[];
  /** Newest release of the update feed, such as `2027-03`. */
  readonly release: string;
  readonly agentVersion: string;
  readonly toolsVersion: string;
  /** Distinguished name of the unit that build machines join. */
  readonly buildUnit: string;
}
