/** What a host holds, as far as that is known. */
export interface HostContents {
  /** The image version that it was made from last. */
  readonly imageVersionId: string;
  /** False from a failure in the middle of its work until it is done: it may hold anything then. */
  readonly isKnown: boolean;
}

/**
 * Whether a host must be made anew from its image to run a version; otherwise packages are attached
 * to what it is. Forecast and work both ask here.
 */
export function needsRebuild(host: HostContents, toImageVersionId: string): boolean {
  return !host.isKnown || host.imageVersionId !== toImageVersionId;
}
