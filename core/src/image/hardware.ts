/** Hardware of a build machine. Memory and disk in bytes. */
export interface Hardware {
  readonly processors: number;
  readonly memoryBytes: number;
  readonly diskBytes: number;
  readonly firmware: 'uefi' | 'bios';
  readonly graphics: boolean;
}
