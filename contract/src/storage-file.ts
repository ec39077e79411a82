/** The input file of `vatline storage`. */
import { z } from 'zod';
import type { CloneStorageInput } from '@vatline/core/pool/clone-storage';
import type { Growth } from '@vatline/core/pool/storage-risk';

/** Whole bytes up to a petabyte a disk: sums of ten thousand stay exact. */
export const fileBytes = z.number().min(0, 'must be at least 0').max(1e15, 'must be at most 1,000,000 GB');
/** As many hosts as a pool holds, which keeps draws to seconds. */
export const fileHosts = z
  .number()
  .int('must be a whole number')
  .min(1, 'must be at least 1')
  .max(10_000, 'must be at most 10,000');
/** Ten years; nobody leaves a host so long, and the sums stay exact. */
export const fileDays = z.number().min(0, 'must be at least 0').max(3_660, 'must be at most 3,660');
const fileName = z.string().min(1, 'is empty').max(200, 'has over 200 characters');

export const datastoreFileSchema = z
  .strictObject({
    name: fileName,
    capacityBytes: fileBytes,
    usedBytes: fileBytes,
    overcommit: z.number().min(0.1, 'must be at least 0.1').max(20, 'must be at most 20').default(1),
  })
  .describe('a datastore; over-commitment is bytes promised for each byte that is there');

export const storageFileSchema = z.strictObject({
  hosts: fileHosts,
  imageBytes: fileBytes,
  swapBytes: fileBytes.default(0),
  dataBytes: fileBytes.default(0),
  throwawayBytes: fileBytes.default(0),
  growth: z
    .strictObject({ medianBytesPerDay: fileBytes, p90BytesPerDay: fileBytes })
    .refine((growth) => growth.p90BytesPerDay >= growth.medianBytesPerDay, {
      path: ['p90BytesPerDay'],
      message: 'must be at least the median',
    }),
  days: fileDays,
  streaming: z
    .strictObject({ stores: z.number().int().min(1).max(100), scratchBytes: fileBytes })
    .default({ stores: 1, scratchBytes: 0 }),
  datastores: z.array(datastoreFileSchema).min(1, 'name at least one').max(100, 'at most 100'),
  /** Each run draws every host; 10,000 runs of 10,000 hosts take some seconds. */
  runs: z.number().int().min(1, 'must be at least 1').max(10_000, 'must be at most 10,000').default(2_000),
  seed: z.union([z.number(), z.string().max(200)]).default(1),
});
export type StorageFile = z.output<typeof storageFileSchema>;

export interface StorageQuestion {
  readonly input: CloneStorageInput;
  readonly growth: Growth;
  readonly runs: number;
  readonly seed: number | string;
}

export function storageQuestionOf(file: StorageFile): StorageQuestion {
  const { growth, streaming, runs, seed, ...rest } = file;
  return {
    input: {
      ...rest,
      growthBytesPerDay: growth.medianBytesPerDay,
      scratchBytes: streaming.scratchBytes,
      streamingStores: streaming.stores,
    },
    growth,
    runs,
    seed,
  };
}
