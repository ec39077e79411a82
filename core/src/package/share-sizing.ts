/**
 * What a file share with containers has to hold and to serve, and the cheapest tier that does.
 * `docs/models.md`, "File share sizing": capacity is all kept versions and growth; operations are
 * those of sign-ins (attached then), of hosts that start (attached ahead), and a steady rest.
 */

export interface SharedPackage {
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

/** People and hosts that attach the same packages. */
export interface SharePool {
  readonly name: string;
  readonly packages: readonly SharedPackage[];
  /** Sign-ins a second in the busiest minute of each hour of the day, 24 of them. */
  readonly signInsPerSecond: readonly number[];
  /** Hosts that start in each hour, 24 of them, spread evenly over it. */
  readonly hostsStarting: readonly number[];
}

export interface ShareDemand {
  /** Bytes of every version that is kept. */
  readonly versionBytes: readonly number[];
  /** Share by which the containers will have grown. */
  readonly growth: number;
  readonly pools: readonly SharePool[];
  /** Reads of those who work, a second, all the time. */
  readonly steadyOperations: number;
}

export interface TierFit {
  readonly tier: ShareTier;
  /** Why it does not do; empty when it does. */
  readonly lacks: string;
  /** Of the capacity that is needed, money a month. */
  readonly monthly: number;
}

export interface TierAdvice {
  readonly capacityBytes: number;
  /** Operations a second by hour of the day: of each pool, and of all with the steady rest. */
  readonly byPool: readonly { readonly name: string; readonly operations: readonly number[] }[];
  readonly operations: readonly number[];
  readonly peakHour: number;
  /** Cheapest first. */
  readonly fits: readonly TierFit[];
  readonly tier: ShareTier | undefined;
  /** What would let the next cheaper tier do; empty when there is none, or nothing would. */
  readonly cheaper: string;
}

/** Kept free, of capacity and of operations. */
export const SPARE = 0.3;
const HOURS = 24;

/** Capacity, operations by hour, and the cheapest tier that carries both with 30 % to spare. */
export function sizeShare(demand: ShareDemand, tiers: readonly ShareTier[]): TierAdvice {
  const capacityBytes = demand.versionBytes.reduce((sum, bytes) => sum + bytes, 0) * (1 + demand.growth);
  const byPool = demand.pools.map((pool) => ({ name: pool.name, operations: operationsOf(pool) }));
  const operations = Array.from({ length: HOURS }, (_none, hour) =>
    byPool.reduce((sum, pool) => sum + (pool.operations[hour] ?? 0), demand.steadyOperations),
  );
  const peak = Math.max(...operations);
  const fits = [...tiers]
    .sort((a, b) => a.price - b.price)
    .map((tier) => ({
      tier,
      lacks: whatLacks(tier, capacityBytes, peak),
      monthly: (capacityBytes / 1e9) * tier.price,
    }));
  const chosen = fits.findIndex((fit) => fit.lacks === '');
  const below = fits[chosen - 1]?.tier;
  return {
    capacityBytes,
    byPool,
    operations,
    peakHour: operations.indexOf(peak),
    fits,
    tier: fits[chosen]?.tier,
    cheaper: below ? whatWouldDo(demand, below, capacityBytes) : '',
  };
}

function whatLacks(tier: ShareTier, bytes: number, operations: number): string {
  const [room, most] = [tier.capacityBytes * (1 - SPARE), tier.operationsLimit * (1 - SPARE)];
  if (bytes > room) return `holds ${Math.floor(room / 1e9)} GB with ${SPARE * 100} % to spare`;
  if (operations > most)
    return `serves ${Math.floor(most)} operations a second with ${SPARE * 100} % to spare`;
  return '';
}

function operationsOf(pool: SharePool): number[] {
  const sum = (ahead: boolean) =>
    pool.packages.reduce((all, one) => all + (one.attachedAhead === ahead ? one.operationsPerAttach : 0), 0);
  const [atSignIn, atStart] = [sum(false), sum(true)];
  return Array.from(
    { length: HOURS },
    (_none, hour) =>
      (pool.signInsPerSecond[hour] ?? 0) * atSignIn + ((pool.hostsStarting[hour] ?? 0) / 3600) * atStart,
  );
}

function whatWouldDo(demand: ShareDemand, below: ShareTier, capacityBytes: number): string {
  const room = below.capacityBytes * (1 - SPARE);
  if (room < capacityBytes)
    return `${below.name} would do with ${Math.ceil((capacityBytes - room) / 1e9)} GB of old versions less`;
  const pools = demand.pools.map((pool) => ({
    ...pool,
    packages: pool.packages.map((one) => ({ ...one, attachedAhead: true })),
  }));
  const ahead = sizeShare({ ...demand, pools }, [below]);
  return ahead.tier ? `${below.name} would do if all packages were attached ahead` : '';
}

/**
 * Sign-ins a second in the busiest minute of each hour, from the sessions expected at each full
 * hour: those by which sessions rise, and those that take the place of sessions that end.
 * `turnover` is the share of sessions that end in an hour; `peak` how many times busier the busiest
 * minute is than the mean of its hour.
 */
export function signInsBySecond(expected: readonly number[], turnover: number, peak: number): number[] {
  return expected.map((sessions, hour) => {
    const next = expected[(hour + 1) % expected.length] ?? sessions;
    return ((Math.max(0, next - sessions) + sessions * turnover) / 3600) * peak;
  });
}
