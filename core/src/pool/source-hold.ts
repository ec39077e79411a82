/** Holding what a pool's hosts are made from: no other image comes onto them until somebody lets it change. */

export interface HeldSource {
  readonly pool: string;
  /** Why; empty where it is not held. */
  readonly hold: string;
  /** The image version that the pool runs. */
  readonly versionId: string | null;
}

/**
 * Why hosts cannot be taken to an image version; nothing where they can. Making them anew from what
 * they run changes nothing, and neither does going back, which those who ask leave out.
 */
export function sourceRefusal({ pool, hold, versionId }: HeldSource, wantedId: string): string | undefined {
  return hold === '' || wantedId === versionId ? undefined : `what ${pool} is made from is held: ${hold}`;
}
