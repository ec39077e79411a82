/** Accepting a new pool: checked, its names and room reserved, and its job written down, all at once. */
import type { NewPool } from '@vatline/contract/pool/kinds';
import type { Hardware } from '@vatline/core/image/hardware';
import { fromJson } from '../platform/database.ts';
import { newId } from '../platform/ids.ts';
import type { PreparedJob } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid, notFound } from '../platform/problem.ts';
import type { CreateInput } from './jobs.ts';
import { previewPool } from './preview.ts';
import { reserve, type Reserved } from './reservations.ts';
import { PoolStore } from './pools.ts';

export class PoolCreation {
  /** One at a time: what a creation may take is what those before it have left. */
  private turn: Promise<unknown> = Promise.resolve();

  constructor(private readonly parts: Parts) {}

  /** Throws a refusal with everything that stands in the way. */
  create(request: NewPool): Promise<{ poolId: string; jobId: string }> {
    const done = this.turn.then(() => this.accept(request));
    this.turn = done.catch(() => undefined);
    return done;
  }

  private async accept(request: NewPool): Promise<{ poolId: string; jobId: string }> {
    const { parts } = this;
    const preview = await previewPool(parts, request);
    if (preview.faults.length > 0 || !preview.fit)
      throw invalid(preview.faults.map(({ path, message }) => ({ path, message })));
    const version = await this.version(request.imageVersionId);
    const poolId = newId('pool');
    const blendId = newId('blend');
    const input: CreateInput = {
      poolId,
      blendId,
      imageId: version.image_id,
      pool: request,
      memoryBytes: fromJson<Hardware>(version.hardware_json).memoryBytes,
      names: preview.names,
    };
    const job = await parts.jobs.prepare({
      kind: 'make pool',
      title: `Make ${request.count} hosts of ${request.name}`,
      subject: `pool:${poolId}`,
      input,
    });
    const bytes = Math.round(preview.fit.bytesNeeded / request.count);
    const hosts = preview.names.map((name) => reservedFor(request, name, bytes));
    await parts.db.transact(() => this.keep({ input, lineId: version.line_id, hosts, job }));
    parts.jobs.begin(job.id);
    return { poolId, jobId: job.id };
  }

  private async keep({ input, lineId, hosts, job }: Accepted): Promise<void> {
    const { db, jobs } = this.parts;
    const { poolId, blendId } = input;
    const { imageVersionId, name, kind, clone, pattern, ou, site, datastore, processors } = input.pool;
    const pools = new PoolStore(this.parts);
    const row = {
      id: poolId,
      name,
      kind,
      clone,
      pattern,
      ou,
      processors,
      line_id: lineId,
      // A dedicated host is one person's.
      session_limit: input.pool.kind === 'pooled' ? input.pool.sessionLimit : 1,
      blend_id: blendId,
      created_ms: job.createdAt,
    };
    await pools.add(row, { site, datastore });
    await pools.blends.add(poolId, imageVersionId, [], job.createdAt, blendId);
    await reserve(db, poolId, hosts);
    await jobs.enlist(job);
  }

  private async version(id: string) {
    const version = await this.parts.db
      .selectFrom('image_version')
      .innerJoin('image_line', 'image_line.id', 'image_version.line_id')
      .select(['image_version.image_id', 'image_version.line_id', 'image_line.hardware_json'])
      .where('image_version.id', '=', id)
      .executeTakeFirst();
    if (!version) throw notFound('such image version');
    return version;
  }
}

function reservedFor({ site, datastore, processors }: NewPool, name: string, bytes: number): Reserved {
  return { name, site, datastore, cores: processors, bytes };
}

interface Accepted {
  readonly input: CreateInput;
  readonly lineId: string;
  readonly hosts: readonly Reserved[];
  readonly job: PreparedJob;
}
