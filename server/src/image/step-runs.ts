/** How long steps of recipes took in past builds. */
import type { StepRun } from '@vatline/core/image/build-history';
import type { Parts } from '../platform/parts.ts';

export class StepRunStore {
  constructor(private readonly parts: Pick<Parts, 'db'>) {}

  /** Runs of steps in past builds, newest first. */
  async of(lineId: string): Promise<StepRun[]> {
    return this.parts.db
      .selectFrom('step_duration')
      .select(['identity', 'minutes', 'at_ms as at', 'build'])
      .where('line_id', '=', lineId)
      .orderBy('id', 'desc')
      .limit(2_000)
      .execute();
  }

  async save(lineId: string, { identity, minutes, at, build }: StepRun): Promise<void> {
    await this.parts.db
      .insertInto('step_duration')
      .values({ line_id: lineId, identity, minutes, at_ms: at, build })
      .execute();
  }
}
