/**
 * The pool file: what a new pool is to be as YAML 1.2, one to one with its bench. Every fault is
 * given with its line and column. The version of the image goes by its identifier, since lines can
 * be renamed; a comment beside it says which it is.
 */
import { Document, isMap, isScalar } from 'yaml';
import { z } from 'zod';
import type { Result } from '@vatline/core/result';
import { poolDraftSchema, type PoolDraft } from './kinds.ts';
import { asBlocks, readYaml, type TextFault } from '../yaml-document.ts';

const poolFileSchema = poolDraftSchema.extend({
  pool: z.literal(1, { error: 'must be 1, the version of this format' }),
});

/** Reads a draft: anything may be missing, and what it should be is judged on the bench. Errors: no YAML, unknown fields, wrong kinds of values. */
export function readPoolFile(text: string): Result<PoolDraft, readonly TextFault[]> {
  const read = readYaml(text, poolFileSchema, 'a pool', () => []);
  if (!read.ok) return read;
  const { pool: _version, ...draft } = read.value;
  return { ok: true, value: draft };
}

/** Writes a draft; `readPoolFile` gives the same back. `versionName` is what people call the image version. */
export function writePoolFile(draft: PoolDraft, versionName = ''): string {
  const fields = Object.keys(poolDraftSchema.shape) as (keyof PoolDraft)[];
  const given = fields.filter((field) => draft[field] !== undefined);
  const document = new Document({
    pool: 1,
    ...Object.fromEntries(given.map((field) => [field, draft[field]])),
  });
  asBlocks(document);
  const { contents } = document;
  const version: unknown = isMap(contents) ? contents.get('imageVersionId', true) : undefined;
  if (isScalar(version) && versionName !== '') version.comment = ` ${versionName}`;
  return document.toString({ lineWidth: 0, flowCollectionPadding: false });
}
