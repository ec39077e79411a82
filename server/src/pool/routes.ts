import type { Router } from 'express';
import { poolEndpoints } from '@vatline/contract/pool';
import type { Hardware } from '@vatline/core/image/hardware';
import { fromJson } from '../platform/database.ts';
import { serve } from '../platform/http.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid, notFound } from '../platform/problem.ts';
import type { CreateInput } from './jobs.ts';
import { previewPool } from './preview.ts';
import type { PoolStore } from './store.ts';

export function poolRoutes(router: Router, parts: Parts, store: PoolStore): void {
  serve(router, poolEndpoints.list, () => store.summaries());
  serve(router, poolEndpoints.get, ({ params }) => store.detail(params.id));
  serve(router, poolEndpoints.preview, ({ body }) => previewPool(parts, withoutUndefined(body)));

  serve(router, poolEndpoints.create, async ({ body }) => {
    const preview = await previewPool(parts, body);
    if (preview.faults.length > 0) throw invalid(preview.faults);
    const version = await parts.db
      .selectFrom('image_version')
      .innerJoin('image_line', 'image_line.id', 'image_version.line_id')
      .select(['image_version.image_id', 'image_version.line_id', 'image_line.hardware_json'])
      .where('image_version.id', '=', body.imageVersionId)
      .executeTakeFirst();
    if (!version) throw notFound('such image version');
    const poolId = newId('pool');
    const { imageVersionId, start: _start, count: _count, sessionLimit, ...pool } = body;
    const at = parts.estate.clock.now();
    await parts.db
      .insertInto('pool')
      .values({
        id: poolId,
        ...pool,
        line_id: version.line_id,
        session_limit: sessionLimit,
        blend_id: null,
        created_ms: at,
      })
      .execute();
    const blend = await store.addBlend(poolId, imageVersionId, [], at);
    await parts.db.updateTable('pool').set({ blend_id: blend.id }).where('id', '=', poolId).execute();
    const { memoryBytes } = fromJson<Hardware>(version.hardware_json);
    const input: CreateInput = {
      poolId,
      blendId: blend.id,
      imageId: version.image_id,
      pool: body,
      memoryBytes,
      names: preview.names,
    };
    const jobId = await parts.jobs.start({
      kind: 'make pool',
      title: `Make ${body.count} hosts of ${body.name}`,
      subject: `pool:${poolId}`,
      input,
    });
    parts.journal.tell('pools', 'jobs');
    return { poolId, jobId };
  });
}

function withoutUndefined<T extends object>(value: T): { [K in keyof T]: Exclude<T[K], undefined> } {
  return Object.fromEntries(Object.entries(value).filter(([, field]) => field !== undefined)) as never;
}
