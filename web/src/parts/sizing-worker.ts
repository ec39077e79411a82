/** Reads assessment data and sizes machines from it, away from the thread that draws. */
import { expose } from 'comlink';
import { readAssessment, type Assessment } from '@vatline/core/pool/assessment';
import { histogram, type Histogram } from '@vatline/core/pool/histogram';
import { chooseSize, type SizeAnswer, type SizeQuestion } from '@vatline/core/pool/size-choice';
import { adviseSize, type SizingAdvice, type SizingInput } from '@vatline/core/pool/sizing';
import { ok, refuse, type Result } from '@vatline/core/result';
import { textOfFile } from './text-of-file.ts';

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

/** Two weeks of 1,000 people take half of it; no browser holds a text twice as long. */
const MOST_BYTES = 250e6;

const worker = {
  async read(recording: string | File): Promise<Result<AssessmentFacts>> {
    const text = typeof recording === 'string' ? ok(recording) : await textOfFile(recording, MOST_BYTES);
    if (!text.ok) return refuse('file', text.error);
    const result = readAssessment(text.value);
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
  /** Undefined before anything was read. */
  choose(question: Omit<SizeQuestion, 'means'>): SizeAnswer[] | undefined {
    return assessment && chooseSize({ ...question, means: assessment.means });
  },
};

export type SizingWorker = typeof worker;
expose(worker);
