/** Everything that is kept of packages. */
import type { Parts } from '../platform/parts.ts';
import { CaptureStore } from './captures.ts';
import { ContainerStore } from './containers.ts';
import { PackageLibrary } from './library.ts';
import { PackageVersionStore } from './versions.ts';

export class PackageStore {
  readonly captures: CaptureStore;
  readonly versions: PackageVersionStore;
  readonly containers: ContainerStore;
  readonly library: PackageLibrary;

  constructor(parts: Pick<Parts, 'db' | 'dataFolder' | 'jobs' | 'estate'>) {
    this.captures = new CaptureStore(parts);
    this.versions = new PackageVersionStore(parts);
    this.containers = new ContainerStore(parts, this.versions);
    this.library = new PackageLibrary(parts, this.versions, this.captures);
  }
}
