/**
 * When the first desktops are there, from nothing: the image is built and cut, then hosts are made of
 * it. Each part is drawn, log-normal by its median and 90th percentile, and the parts of a draw add up.
 */
import { makingTime } from '../pool/making-time.ts';
import { quantile } from '../quantile.ts';
import { logNormal, seededRandom } from '../random.ts';

/** Minutes, median and 90th percentile. Source: the practice hypervisor. See `docs/models.md`, "Assumptions". */
export const usualCut = {
  shutDownMinutes: [1, 1.3],
  copyMinutes: [6, 8],
  generaliseMinutes: [4, 5],
  captureMinutes: [5, 7],
} as const;

/** Nine builds of ten take at most so many times what their steps are expected to. */
const BUILD_SPREAD = 1.15;
const DRAWS = 1_000;

export interface FirstTime {
  /** Medians of the parts, minutes. */
  readonly buildMinutes: number;
  readonly cutMinutes: number;
  readonly makeMinutes: number;
  /** Until people can come: as likely as not, and nine times of ten. */
  readonly p50Minutes: number;
  readonly p90Minutes: number;
}

/** `buildMinutes`: what the steps of the recipe are expected to take together. Hosts are linked clones. */
export function firstDesktopsTime(buildMinutes: number, hosts: number, atOnce: number): FirstTime {
  const random = seededRandom(`first desktops ${buildMinutes} ${hosts} ${atOnce}`);
  const making = makingTime('linked', hosts, atOnce);
  const cuts = Object.values(usualCut);
  const totals = Array.from({ length: DRAWS }, () => {
    const cut = cuts.reduce((sum, [median, p90]) => sum + logNormal(random, median, p90), 0);
    const build = buildMinutes > 0 ? logNormal(random, buildMinutes, buildMinutes * BUILD_SPREAD) : 0;
    const made = making.p50Minutes > 0 ? logNormal(random, making.p50Minutes, making.p90Minutes) : 0;
    return build + cut + made;
  }).sort((a, b) => a - b);
  return {
    buildMinutes,
    cutMinutes: cuts.reduce((sum, [median]) => sum + median, 0),
    makeMinutes: making.p50Minutes,
    p50Minutes: quantile(totals, 0.5) ?? 0,
    p90Minutes: quantile(totals, 0.9) ?? 0,
  };
}
