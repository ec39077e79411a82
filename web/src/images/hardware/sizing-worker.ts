/** Reads assessment data and sizes machines from it, away from the thread that draws. */
import { expose } from 'comlink';
import { readAssessment, type Assessment } from '@vatline/core/pool/assessment';
import { histogram, type Histogram } from '@vatline/core/pool/histogram';
import { adviseSize, type SizingAdvice, type SizingInput } from '@vatline/core/pool/sizing';
import type { Result } from '@vatline/core/result';

export interface AssessmentFacts {
  readonly rows: number;
  readonly users: number;
  readonly days: number;
}

export interface DrawnAdvice extends Omit<SizingAdvice, 'cpuDraws' | 'memoryDraws' | 'curve'> {
  readonly cpu: Histogram;
  readonly memory: Histogram;
}

const BINS = 48;
let assessment: Assessment | undefined;

const worker = {
  read(text: string): Result<AssessmentFacts> {
    const result = readAssessment(text);
    if (!result.ok) return result;
    assessment = result.value;
    const { rows, users, days } = assessment;
    return { ok: true, value: { rows, users, days } };
  },
  /** Undefined before anything was read. */
  advise(input: Omit<SizingInput, 'means'>): DrawnAdvice | undefined {
    if (!assessment) return undefined;
    const {
      cpuDraws,
      memoryDraws,
      curve: _curve,
      ...advice
    } = adviseSize({ ...input, means: assessment.means });
    const top = (draws: Float64Array, limit: number) => Math.max(draws.at(-1) ?? 0, limit) * 1.04;
    return {
      ...advice,
      cpu: histogram(cpuDraws, BINS, top(cpuDraws, input.processors)),
      memory: histogram(memoryDraws, BINS, top(memoryDraws, input.memoryBytes)),
    };
  },
};

export type SizingWorker = typeof worker;
expose(worker);
