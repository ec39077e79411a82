/** What a datastore has left, operations a second; nothing for one that is not there. */
import type { SiteReport } from '../estate/driver/sites.ts';

export function freeOperations(site: SiteReport | undefined, datastore: string): number {
  const operations = site?.datastores.find((row) => row.name === datastore)?.operations;
  return operations ? operations.total - operations.used : 0;
}
