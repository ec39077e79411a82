/** Sensible values for somebody who begins with nothing; each can be changed before anything is made. */
import type { SiteRoom } from '../pool/fit.ts';

export interface ProposedSite extends SiteRoom {
  readonly sizes: readonly {
    readonly name: string;
    readonly processors: number;
    readonly memoryBytes: number;
    readonly graphics: number;
    readonly pricePerHour: number;
  }[];
  readonly datastores: readonly (SiteRoom['datastores'][number] & { readonly price: number })[];
}

export interface Proposal {
  readonly site: string;
  readonly network: string;
  readonly datastore: string;
  readonly size: string;
  /** Empty where there is none. */
  readonly unit: string;
  readonly group: string;
}

export interface Surroundings {
  readonly sites: readonly ProposedSite[];
  readonly units: readonly { readonly dn: string; readonly computers: number }[];
  /** Of build machines; no host belongs there. */
  readonly buildUnit: string;
  /** Groups with the people that each reaches. */
  readonly groups: readonly { readonly name: string; readonly people: number }[];
}

const free = ({ total, used }: { readonly total: number; readonly used: number }) => total - used;
const most = <T>(list: readonly T[], of: (one: T) => number): T | undefined =>
  list.reduce<T | undefined>(
    (best, one) => (best === undefined || of(one) > of(best) ? one : best),
    undefined,
  );

/**
 * The site with the most free cores, its cheapest size, its network with the most free addresses, and
 * its datastore in the middle by price; the unit in which most computers are, or where there are none
 * the one above that of build machines; and the smallest group that reaches anybody: whoever tries
 * something out tries it on few.
 */
export function proposeFirst({ sites, units, buildUnit, groups }: Surroundings): Proposal {
  const site = most(
    sites.filter((one) => one.sizes.length > 0),
    (one) => free(one.cores),
  );
  const byPrice = [...(site?.datastores ?? [])].sort((a, b) => a.price - b.price);
  return {
    site: site?.name ?? '',
    network: most(site?.networks ?? [], (one) => free(one.addresses))?.name ?? '',
    datastore: byPrice[Math.floor(byPrice.length / 2)]?.name ?? '',
    size: most(site?.sizes ?? [], (size) => -size.pricePerHour)?.name ?? '',
    unit: unitAmong(units, buildUnit),
    group:
      most(
        groups.filter((group) => group.people > 0),
        (group) => -group.people,
      )?.name ?? '',
  };
}

function unitAmong(units: Surroundings['units'], buildUnit: string): string {
  const others = units.filter((unit) => unit.dn !== buildUnit);
  const fullest = most(others, (unit) => unit.computers);
  if (fullest && fullest.computers > 0) return fullest.dn;
  const above = others.find((unit) => buildUnit.endsWith(`,${unit.dn}`));
  return (above ?? fullest)?.dn ?? '';
}
