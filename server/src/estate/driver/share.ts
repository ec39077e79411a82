/** File shares that hosts read containers from. */

export interface ShareReport {
  readonly name: string;
  readonly capacityBytes: number;
  readonly usedBytes: number;
  /** Bytes that each byte of a container counts for there: 1, but more where small files stand for large ones. */
  readonly scale: number;
  readonly operationsPerSecond: number;
  readonly files: number;
  /** Money for a gigabyte and month. */
  readonly price: number;
}

export const shareRoles = ['hosts', 'packagers', 'users'] as const;
export type ShareRole = (typeof shareRoles)[number];
export type ShareRight = 'write' | 'read' | 'nothing';
export type ShareRights = Readonly<Record<ShareRole, ShareRight>>;

/** File shares that hosts read containers from. A container is one path, or of an image layout several below it. */
export interface FileShare {
  shares(): Promise<readonly ShareReport[]>;
  /** Bytes of a file that are there; nothing where there is none. */
  held(share: string, path: string): Promise<number | undefined>;
  /**
   * Writes bytes behind the first `offset` of a file, which are there; what came behind them before
   * is written over. Throws `quota` when the share is full.
   */
  write(share: string, path: string, offset: number, bytes: Uint8Array): Promise<void>;
  /** SHA-256 in hex of a file, worked out where it lies. */
  digest(share: string, path: string): Promise<string>;
  /** Takes away a container: the path and all below it. */
  remove(key: string, share: string, path: string): Promise<void>;
  rights(share: string): Promise<ShareRights>;
  setRights(key: string, share: string, rights: ShareRights): Promise<void>;
}
