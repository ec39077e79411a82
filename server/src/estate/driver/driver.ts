/**
 * The interface to the outside world. The application reaches providers, hypervisor, chassis, streaming stores, directory, licences, broker,
 * file share, packaging machine, host agents and people only through it; `docs/drivers.md` tells how to
 * write another driver than the practice estate that ships.
 *
 * Every call is asynchronous, may fail with an `EstateError`, and is idempotent by the key the
 * caller gives: the same key again gives the same object or operation and does nothing twice.
 */
import type { Operations } from './operations.ts';
import type { EstateClock } from './clock.ts';
import type { Hypervisor } from './hypervisor.ts';
import type { Sources } from './sources.ts';
import type { Directory } from './directory.ts';
import type { Licences } from './licences.ts';
import type { Chassis } from './chassis.ts';
import type { Providers } from './providers.ts';
import type { StreamingStores } from './streaming.ts';
import type { Broker } from './broker.ts';
import type { FileShare } from './share.ts';
import type { TrustStores, HostAgents, HostInstaller } from './hosts.ts';
import type { PackagingMachine } from './packaging.ts';
import type { UserActivity } from './activity.ts';

export interface EstateDriver {
  readonly sources: Sources;
  readonly clock: EstateClock;
  readonly operations: Operations;
  readonly hypervisor: Hypervisor;
  readonly directory: Directory;
  readonly licences: Licences;
  readonly streaming: StreamingStores;
  readonly chassis: Chassis;
  readonly providers: Providers;
  readonly broker: Broker;
  readonly share: FileShare;
  readonly agents: HostAgents;
  readonly installer: HostInstaller;
  readonly trust: TrustStores;
  readonly activity: UserActivity;
  readonly packaging: PackagingMachine;
}
