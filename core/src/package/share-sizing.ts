/** What a file share with containers has to hold and to serve, and the cheapest tier that does. */

export interface SharedPackage {
  /** Bytes of each version that is kept. */
  readonly versionBytes: readonly number[];
  /** Operations that one attach makes on the share. */
  readonly operationsPerAttach: number;
  readonly attachedAhead: boolean;
}

export interface ShareTier {
  readonly name: string;
  readonly capacityBytes: number;
  /** A second. */
  readonly operationsLimit: number;
  /** Money for a gigabyte and month. */
  readonly price: number;
}

export interface ShareDemand {
  readonly packages: readonly SharedPackage[];
  /** Share by which the containers will have grown. */
  readonly growth: number;
  /** Sign-ins a second in each hour of the day, 24 of them. */
  readonly signInsPerSecond: readonly number[];
  /** Hosts that start in each hour, 24 of them, spread evenly over it. */
  readonly hostsStarting: readonly number[];
  /** Reads of those who work, a second, all the time. */
  readonly steadyOperations: number;
}

export interface TierAdvice {
  readonly capacityBytes: number;
  /** Operations a second by hour of the day. */
  readonly operations: readonly number[];
  readonly peakHour: number;
  readonly tier: ShareTier | undefined;
  /** What would let the next cheaper tier do; empty when there is none, or nothing would. */
  readonly cheaper: string;
}

/** Kept free, of capacity and of operations. */
export const SPARE = 0.3;

/** Capacity, operations by hour, and the cheapest tier that carries both with 30 % to spare. */
export function sizeShare(demand: ShareDemand, tiers: readonly ShareTier[]): TierAdvice {
  const capacityBytes =
    demand.packages.flatMap((one) => one.versionBytes).reduce((sum, bytes) => sum + bytes, 0) *
    (1 + demand.growth);
  const operations = operationsByHour(demand);
  const peak = Math.max(...operations);
  const byPrice = [...tiers].sort((a, b) => a.price - b.price);
  const fits = (tier: ShareTier, wanted: number) =>
    tier.capacityBytes * (1 - SPARE) >= capacityBytes && tier.operationsLimit * (1 - SPARE) >= wanted;
  const tier = byPrice.find((one) => fits(one, peak));
  const below = byPrice[byPrice.findIndex((one) => one === tier) - 1];
  return {
    capacityBytes,
    operations,
    peakHour: operations.indexOf(peak),
    tier,
    cheaper: tier && below ? whatWouldDo(demand, below, capacityBytes, fits) : '',
  };
}

function operationsByHour(demand: ShareDemand): number[] {
  const sum = (ahead: boolean) =>
    demand.packages.reduce(
      (all, one) => all + (one.attachedAhead === ahead ? one.operationsPerAttach : 0),
      0,
    );
  const [atSignIn, atStart] = [sum(false), sum(true)];
  return Array.from(
    { length: 24 },
    (_none, hour) =>
      (demand.signInsPerSecond[hour] ?? 0) * atSignIn +
      ((demand.hostsStarting[hour] ?? 0) / 3600) * atStart +
      demand.steadyOperations,
  );
}

function whatWouldDo(
  demand: ShareDemand,
  below: ShareTier,
  capacityBytes: number,
  fits: (tier: ShareTier, wanted: number) => boolean,
): string {
  if (below.capacityBytes * (1 - SPARE) < capacityBytes) {
    const over = capacityBytes - below.capacityBytes * (1 - SPARE);
    return `${below.name} would do with ${Math.ceil(over / 1e9)} GB of old versions less`;
  }
  const ahead = { ...demand, packages: demand.packages.map((one) => ({ ...one, attachedAhead: true })) };
  return fits(below, Math.max(...operationsByHour(ahead)))
    ? `${below.name} would do if all packages were attached ahead`
    : '';
}
