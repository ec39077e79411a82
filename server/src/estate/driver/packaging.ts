/** The clean machine on which installers are captured. */
import type { Entry } from '@vatline/core/inventory/entry';
import type { EntryPoint } from '@vatline/core/container/manifest';
import type { Operation } from './operations.ts';

export interface Installer {
  readonly id: string;
  readonly name: string;
  readonly publisher: string;
  readonly version: string;
  readonly files: number;
  readonly entryPoints: readonly EntryPoint[];
  /** Name of its licence, where known. */
  readonly licence?: string | undefined;
}

/** A clean machine on which installers are captured. Its disk is a folder here. */
export interface PackagingMachine {
  installers(): Promise<readonly Installer[]>;
  /** Lays out the clean machine; `quiet` switches off what writes by itself, such as the search index. */
  prepare(key: string, folder: string, options: { readonly quiet: boolean }): Promise<void>;
  /** Runs an installer; the result is its exit code, 3010 when it wants a restart to finish. */
  install(key: string, folder: string, installer: string): Promise<Operation>;
  restart(key: string, folder: string): Promise<Operation>;
  /** Puts the files that an installer brings into a folder, as its source. */
  source(folder: string, installer: string): Promise<void>;
  /** Services, tasks, registry values and shortcuts of the machine now, which are not files. */
  settings(folder: string): Promise<readonly Entry[]>;
}
