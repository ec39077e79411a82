/** Draws how datastores fill, away from the thread that draws the screen. */
import { expose } from 'comlink';
import type { CloneKind, CloneStorageInput } from '@vatline/core/pool/clone-storage';
import {
  chanceOfFilling,
  drawGrowth,
  fillingByDay,
  STORAGE_DRAWS,
  type FillingDay,
  type Growth,
} from '@vatline/core/pool/storage-risk';

export interface FillingQuestion {
  readonly input: CloneStorageInput;
  readonly growth: Growth;
  readonly kinds: readonly CloneKind[];
  /** The kind whose days are wanted. */
  readonly shown: CloneKind;
  readonly lastDay: number;
}

export interface Filling {
  /** For each kind asked about, the chance that it fills before the next rebuild. */
  readonly chances: Readonly<Partial<Record<CloneKind, number>>>;
  readonly days: readonly FillingDay[];
}

const worker = {
  fill({ input, growth, kinds, shown, lastDay }: FillingQuestion): Filling {
    const { hosts, datastores } = input;
    const draws = drawGrowth({
      hosts,
      datastores: datastores.length,
      growth,
      runs: STORAGE_DRAWS,
      seed: 'pool',
    });
    return {
      chances: Object.fromEntries(kinds.map((kind) => [kind, chanceOfFilling(kind, input, draws)])),
      days: fillingByDay(shown, input, draws, lastDay),
    };
  },
};

export type FillingWorker = typeof worker;
expose(worker);
