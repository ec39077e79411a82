/** From what is known of shares and pools to the models' inputs. */
import type { ShareDemandFacts } from '@vatline/contract/share';
import { signInTime, type SignInTime } from '@vatline/core/access/sign-in-time';
import { signInsBySecond, sizeShare, type TierAdvice } from '@vatline/core/package/share-sizing';

export interface ShareInputs {
  /** Share by which the containers will have grown. */
  readonly growth: number;
  /** Share of sessions that end in an hour and whose place others take. */
  readonly turnover: number;
  /** How many times busier the busiest minute is than the mean of its hour. */
  readonly peak: number;
  readonly steadyOperations: number;
  /** Hour at which hosts start. */
  readonly startHour: number;
  readonly parallelMounts: number;
  readonly baseSeconds: number;
  readonly profileSeconds: number;
}

export const shareInputDefaults: ShareInputs = {
  growth: 0.3,
  turnover: 0.1,
  peak: 3,
  steadyOperations: 10,
  startHour: 5,
  parallelMounts: 4,
  baseSeconds: 6,
  profileSeconds: 3,
};

export function adviceOn(facts: ShareDemandFacts, inputs: ShareInputs): TierAdvice {
  return sizeShare(
    {
      versionBytes: facts.versionBytes,
      growth: inputs.growth,
      steadyOperations: inputs.steadyOperations,
      pools: facts.pools.map((pool) => ({
        name: pool.name,
        packages: pool.packages.map((one) => ({
          operationsPerAttach: one.operations,
          attachedAhead: one.attachedAhead,
        })),
        signInsPerSecond: signInsBySecond(pool.expected, inputs.turnover, inputs.peak),
        hostsStarting: Array.from({ length: 24 }, (_none, hour) =>
          hour === inputs.startHour ? pool.hosts : 0,
        ),
      })),
    },
    facts.shares,
  );
}

export interface SignInRow {
  readonly pool: string;
  readonly packages: number;
  /** In the median hour, and in the busiest minute of the day. */
  readonly usual: SignInTime;
  readonly busiest: SignInTime;
}

/** Per pool that attaches something, by the load that all pools together put on the share that does. */
export function signInRows(facts: ShareDemandFacts, inputs: ShareInputs, advice: TierAdvice): SignInRow[] {
  const share = advice.tier ?? advice.fits.at(-1)?.tier;
  if (!share) return [];
  const sorted = [...advice.operations].sort((a, b) => a - b);
  const [median, busiest] = [sorted[12] ?? 0, sorted[23] ?? 0];
  return facts.pools
    .filter((pool) => pool.packages.length > 0)
    .map((pool) => {
      const model = (steadyOperations: number) => ({
        baseMs: inputs.baseSeconds * 1000,
        profileMs: inputs.profileSeconds * 1000,
        parallelMounts: inputs.parallelMounts,
        shareLimit: share.operationsLimit,
        steadyOperations,
        packages: pool.packages.map((one) => ({
          name: `${one.name} ${one.version}`,
          mountMs: one.mountMs,
          registerMs: one.registerMs / Math.max(1, one.entryPoints),
          entryPoints: one.entryPoints,
          operationsPerAttach: one.operations,
          attachedAhead: one.attachedAhead,
        })),
      });
      // What others ask of the share is in its load already, so nobody more signs in.
      return {
        pool: pool.name,
        packages: pool.packages.length,
        usual: signInTime(model(median), 0),
        busiest: signInTime(model(busiest), 0),
      };
    });
}
