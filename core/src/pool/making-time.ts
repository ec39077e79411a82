/**
 * How long making hosts takes. They are made batch by batch, and a batch is done when its slowest
 * host is: its clone, its registration, and then its agent's first report, which comes at some point
 * of the agent's interval. The length of one batch is drawn; of n batches, one after the other, the
 * mean is n times its mean and the spread √n times its spread.
 */
import type { CloneKind } from './clone-storage.ts';
import { logNormal, seededRandom } from '../random.ts';

/** Minutes: median and 90th percentile. */
type Spread = readonly [median: number, p90: number];

/** Source: the practice hypervisor's clones and the practice broker. See `docs/models.md`, "Assumptions". */
export const usualMaking = {
  cloneMinutes: { full: [14, 19], linked: [4, 6], network: [3, 4] } satisfies Record<CloneKind, Spread>,
  registerMinutes: [0.5, 1] satisfies Spread,
  /** Between two checks of an agent. */
  agentMinutes: 5,
} as const;

/** How long hosts that rest take until people can be sent to them. Source: the practice hypervisor. */
export const usualStarting = {
  startMinutes: [1, 1.3] satisfies Spread,
  resumeMinutes: [0.3, 0.4] satisfies Spread,
} as const;

export interface MakingTime {
  /** Done by then as likely as not, minutes. */
  readonly p50Minutes: number;
  /** Done by then nine times of ten. */
  readonly p90Minutes: number;
}

const DRAWS = 400;
/** The 90th percentile of the standard normal distribution. */
const Z90 = 1.2816;

/** Until so many hosts are made, so many at a time; zero for none. */
export function makingTime(clone: CloneKind, hosts: number, atOnce: number): MakingTime {
  const size = Math.max(1, Math.min(hosts, atOnce));
  const batches = Math.ceil(hosts / size);
  const { mean, deviation } = lengthOfBatch(clone, size);
  return {
    p50Minutes: batches * mean,
    p90Minutes: batches * mean + Z90 * Math.sqrt(batches) * deviation,
  };
}

function lengthOfBatch(clone: CloneKind, size: number): { mean: number; deviation: number } {
  const random = seededRandom(`making ${clone} ${size}`);
  const { cloneMinutes, registerMinutes, agentMinutes } = usualMaking;
  let [sum, squares] = [0, 0];
  for (let draw = 0; draw < DRAWS; draw++) {
    let slowest = 0;
    for (let host = 0; host < size; host++) {
      const made = logNormal(random, ...cloneMinutes[clone]) + logNormal(random, ...registerMinutes);
      slowest = Math.max(slowest, made + random() * agentMinutes);
    }
    sum += slowest;
    squares += slowest * slowest;
  }
  const mean = sum / DRAWS;
  return { mean, deviation: Math.sqrt(Math.max(0, squares / DRAWS - mean * mean)) };
}
