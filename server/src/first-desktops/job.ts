/**
 * First desktops as one job: the build, the cut, the pool and the assignment, each step the same as
 * where it is done by hand. What it makes has its identifiers from the beginning, so that after a
 * kill nothing is made twice.
 */
import type { FirstDraft } from '@vatline/contract/first-desktops';
import { newPoolSchema } from '@vatline/contract/pool/kinds';
import { assign } from '../access/assignments.ts';
import { backToCheckpoint, buildSteps, type BuildInput } from '../image/build-job.ts';
import { cutSteps, dropCopy, type CutInput } from '../image/cut-job.ts';
import { powerStep } from '../image/jobs.ts';
import type { ImageStore } from '../image/store.ts';
import type { Instant } from '@vatline/core/time/instant';
import type { JobKind, JobStep } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict } from '../platform/problem.ts';
import type { PoolCreation } from '../pool/create.ts';
import { poolDraftOf } from './pool-of.ts';

export const FIRST_DESKTOPS = 'first desktops';

export interface FirstInput {
  readonly draft: FirstDraft;
  readonly poolId: string;
  readonly build: BuildInput;
  readonly cut: CutInput;
  /** When people are to be able to come, nine times of ten: the hosts are made by a job of their own. */
  readonly promisedAt: Instant;
}

interface Makers {
  readonly images: ImageStore;
  readonly creation: PoolCreation;
}

export function firstDesktopsJob(parts: Parts, { images, creation }: Makers): JobKind<FirstInput> {
  return {
    kind: FIRST_DESKTOPS,
    paced: true,
    cleanUp: async ({ cut }, jobId) => {
      await dropCopy(parts, jobId);
      await backToCheckpoint(parts, images, cut.lineId, jobId);
    },
    steps: ({ draft, poolId, build, cut }) =>
      Promise.resolve([
        ...buildSteps(parts, images, build),
        powerStep(parts, images, cut.lineId, 'shut down'),
        ...cutSteps(parts, images, cut),
        poolStep(parts, creation, { draft, poolId, lineId: cut.lineId }),
        assignStep(parts, draft, poolId),
      ]),
  };
}

function poolStep(
  { db }: Parts,
  creation: PoolCreation,
  { draft, poolId, lineId }: { draft: FirstDraft; poolId: string; lineId: string },
): JobStep {
  return {
    title: `Make ${draft.pool}`,
    run: async (context) => {
      const there = await db.selectFrom('pool').select('id').where('id', '=', poolId).executeTakeFirst();
      if (there) return;
      const version = await db
        .selectFrom('image_version')
        .select('id')
        .where('line_id', '=', lineId)
        .orderBy('number', 'desc')
        .executeTakeFirst();
      if (!version) throw conflict('there is no version to make hosts from');
      await creation.create(newPoolSchema.parse(poolDraftOf(draft, version.id)), poolId);
      await context.log(`${draft.count} hosts of ${draft.pool} are being made`);
    },
  };
}

function assignStep(parts: Parts, { group, pool }: FirstDraft, poolId: string): JobStep {
  return {
    title: `Let ${group} use it`,
    run: async (context) => {
      const there = await parts.db
        .selectFrom('assignment')
        .select('id')
        .where('pool_id', '=', poolId)
        .where('group_name', '=', group)
        .executeTakeFirst();
      if (there) return;
      await assign(parts, { group, poolId, target: { kind: 'desktop' } });
      await context.log(`${group} may use the desktop of ${pool}`);
    },
  };
}
