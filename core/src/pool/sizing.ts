/**
 * How many people fit on a machine, and how large a machine they need, from assessment data.
 *
 * For every count k of people: 5,000 draws, each of a time of day and of k people measured at it
 * (seeded, with replacement). The machine holds k people when the 95th percentile of their summed
 * processor use is at most 80 % of its cores and that of their summed memory at most 90 % of its
 * memory, less what the system itself takes.
 */
import { quantile } from '../quantile.ts';
import { seededRandom } from '../random.ts';
import type { UsageMean } from './assessment.ts';

export interface SizingInput {
  readonly means: readonly UsageMean[];
  readonly processors: number;
  readonly memoryBytes: number;
  /** Memory that the system takes with nobody signed in. */
  readonly baseMemoryBytes: number;
  /** People that a machine is to carry. */
  readonly sessions: number;
  readonly seed: string;
}

/** What k people use together: 95th percentiles. Cpu in cores, memory in bytes without the base. */
export interface Demand {
  readonly sessions: number;
  readonly cpu: number;
  readonly memoryBytes: number;
  readonly operations: number;
}

export interface SizingAdvice {
  /** The most people the machine as it is holds. */
  readonly sessionsHeld: number;
  /** What the next person would not find enough of. */
  readonly binds: 'processors' | 'memory' | 'neither';
  /** What the wanted number of people needs. */
  readonly demand: Demand;
  /** The smallest machine for them: whole processors, whole gigabytes. */
  readonly processors: number;
  readonly memoryBytes: number;
  /** What the machine has over 1.5 times of. */
  readonly oversized: readonly ('processors' | 'memory')[];
  /** What the wanted number of people use together, draw by draw, sorted: cores and bytes. */
  readonly cpuDraws: Float64Array;
  readonly memoryDraws: Float64Array;
  /** Demand for every count from 1 up to the one that no longer fits, at least to the wanted one. */
  readonly curve: readonly Demand[];
}

export const DRAWS = 5_000;
const MOST_SESSIONS = 250;
const CPU_SHARE = 0.8;
const MEMORY_SHARE = 0.9;
const OVERSIZE = 1.5;
const GIGABYTE = 1e9;

/** Working advice. There must be at least one mean. */
export function adviseSize(input: SizingInput): SizingAdvice {
  const draws = new Draws(input.means, input.seed);
  const cores = input.processors * CPU_SHARE;
  const memory = input.memoryBytes * MEMORY_SHARE - input.baseMemoryBytes;
  const curve: Demand[] = [];
  let sessionsHeld = 0;
  let binds: SizingAdvice['binds'] = 'neither';
  let [cpuDraws, memoryDraws] = [new Float64Array(), new Float64Array()];
  while (curve.length < MOST_SESSIONS && (binds === 'neither' || curve.length < input.sessions)) {
    const demand = draws.nextDemand();
    curve.push(demand);
    if (demand.sessions === input.sessions) [cpuDraws, memoryDraws] = draws.sorted();
    if (binds !== 'neither') continue;
    if (demand.cpu > cores || demand.memoryBytes > memory)
      binds = demand.cpu / cores >= demand.memoryBytes / Math.max(memory, 1) ? 'processors' : 'memory';
    else sessionsHeld = demand.sessions;
  }
  const demand = curve[Math.min(input.sessions, curve.length) - 1] as Demand;
  const processors = Math.max(1, Math.ceil(demand.cpu / CPU_SHARE));
  const memoryBytes =
    Math.ceil((demand.memoryBytes + input.baseMemoryBytes) / MEMORY_SHARE / GIGABYTE) * GIGABYTE;
  const oversized: ('processors' | 'memory')[] = [];
  if (input.processors > processors * OVERSIZE) oversized.push('processors');
  if (input.memoryBytes > memoryBytes * OVERSIZE) oversized.push('memory');
  return { sessionsHeld, binds, demand, processors, memoryBytes, oversized, cpuDraws, memoryDraws, curve };
}

/** The draws side by side; each gains one person at a time, so that demand never falls as people come. */
class Draws {
  private readonly bySlot: readonly (readonly UsageMean[])[];
  private readonly slots: Uint16Array;
  private readonly cpu = new Float64Array(DRAWS);
  private readonly memory = new Float64Array(DRAWS);
  private readonly operations = new Float64Array(DRAWS);
  private readonly random: () => number;
  private sessions = 0;

  constructor(means: readonly UsageMean[], seed: string) {
    this.random = seededRandom(seed);
    const slots = new Map<number, UsageMean[]>();
    for (const mean of means) {
      const list = slots.get(mean.slot);
      if (list) list.push(mean);
      else slots.set(mean.slot, [mean]);
    }
    this.bySlot = [...slots.entries()].sort(([a], [b]) => a - b).map(([, list]) => list);
    this.slots = Uint16Array.from({ length: DRAWS }, () => Math.floor(this.random() * this.bySlot.length));
  }

  /** The sums of every draw as they stand now. */
  sorted(): [Float64Array<ArrayBuffer>, Float64Array<ArrayBuffer>] {
    return [Float64Array.from(this.cpu).sort(), Float64Array.from(this.memory).sort()];
  }

  nextDemand(): Demand {
    this.sessions += 1;
    for (let draw = 0; draw < DRAWS; draw++) {
      const present = this.bySlot[this.slots[draw] as number] as readonly UsageMean[];
      const person = present[Math.floor(this.random() * present.length)] as UsageMean;
      this.cpu[draw] = (this.cpu[draw] as number) + person.cpu;
      this.memory[draw] = (this.memory[draw] as number) + person.memoryBytes;
      this.operations[draw] = (this.operations[draw] as number) + person.operations;
    }
    return {
      sessions: this.sessions,
      cpu: p95(this.cpu),
      memoryBytes: p95(this.memory),
      operations: p95(this.operations),
    };
  }
}

function p95(values: Float64Array): number {
  return quantile(Float64Array.from(values).sort(), 0.95) ?? 0;
}
