/** Offering a version to hosts: its container goes to a share, what arrived is checked, and hosts may read it. */
import { createReadStream, existsSync, readFileSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { digestOfFile } from '@vatline/files/digest-of-file';
import type { JobContext, JobKind, JobStep } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict } from '../platform/problem.ts';
import { offerRefusal } from './attach-check.ts';
import { allowed } from './version-deed.ts';
import type { PackageStore } from './store.ts';
import { Cancelled } from '../platform/jobs/cancelled.ts';

export interface OfferInput {
  readonly versionId: string;
  readonly share: string;
}

/** Sent at once; after an interruption at most so much is sent again. */
const PIECE = 4 << 20;

export function offerJob(parts: Parts, store: PackageStore): JobKind<OfferInput> {
  return {
    kind: 'offer',
    paced: false,
    steps: async ({ versionId, share }) => {
      const { digest } = await store.versions.get(versionId);
      const signature: JobStep = {
        title: 'Put its signature beside it',
        run: () => sendSignature(parts, store, share, digest),
      };
      const files = filesOf(store.containers.path(digest), digest);
      return [
        {
          title: `Copy it to ${share}`,
          run: (context) => upload(parts, context, share, files),
        },
        {
          title: 'Check what arrived',
          run: (context) => check(parts, context, share, digest, files),
        },
        {
          title: 'Check that hosts may read it',
          run: (context) => checkRights(parts, context, share),
        },
        signature,
        offerStep(parts, store, versionId, share),
      ];
    },
  };
}

/** Writes the signature of a container beside it on a share, in place of an earlier one. */
export async function sendSignature(
  { estate }: Pick<Parts, 'estate'>,
  store: PackageStore,
  share: string,
  digest: string,
): Promise<void> {
  const local = `${store.containers.path(digest)}.p7s`;
  if (existsSync(local)) await estate.share.write(share, `${digest}.p7s`, 0, readFileSync(local));
}

interface UploadedFile {
  readonly local: string;
  /** Path on the share. */
  readonly path: string;
}

/** The file of a container, or all files of an image layout. */
function filesOf(container: string, digest: string): UploadedFile[] {
  if (!statSync(container).isDirectory()) return [{ local: container, path: digest }];
  return readdirSync(container, { recursive: true, withFileTypes: true }).flatMap((child) => {
    if (!child.isFile()) return [];
    const local = join(child.parentPath, child.name);
    return [{ local, path: `${digest}/${local.slice(container.length + 1)}` }];
  });
}

/** Goes on behind what is there: after a crash or a lost connection nothing is sent twice. */
async function upload(
  { estate }: Parts,
  context: JobContext,
  share: string,
  files: readonly UploadedFile[],
): Promise<void> {
  const total = files.reduce((sum, file) => sum + statSync(file.local).size, 0);
  let [done, sent] = [0, 0];
  for (const { local, path } of files) {
    const { size } = statSync(local);
    const held = (await estate.share.held(share, path)) ?? 0;
    // More than there should be is another file; it is written over.
    let at = held > size ? 0 : held;
    done += at;
    if (size === 0) await estate.share.write(share, path, 0, new Uint8Array());
    for await (const piece of createReadStream(local, { start: at, highWaterMark: PIECE })) {
      if (context.cancelled()) throw new Cancelled();
      const bytes = piece as Buffer;
      await estate.share.write(share, path, at, bytes);
      at += bytes.length;
      done += bytes.length;
      sent += bytes.length;
      context.progress(done / Math.max(1, total));
    }
  }
  const rest = total - sent;
  await context.log(
    `${sent.toLocaleString('en-GB')} bytes sent${rest > 0 ? `, ${rest.toLocaleString('en-GB')} were there` : ''}`,
  );
}

async function check(
  { estate }: Parts,
  context: JobContext,
  share: string,
  digest: string,
  files: readonly UploadedFile[],
): Promise<void> {
  for (const [i, { local, path }] of files.entries()) {
    const [there, here] = [await estate.share.digest(share, path), await digestOfFile(local)];
    if (there !== here) {
      await estate.share.remove(`${context.jobId}/remove`, share, digest);
      throw conflict(
        `What arrived on ${share} differs from what was sent (${path}); it was taken away again`,
      );
    }
    context.progress((i + 1) / files.length);
  }
  await context.log('what arrived has the digest of what was sent');
}

async function checkRights({ estate }: Parts, context: JobContext, share: string): Promise<void> {
  const { hosts, users } = await estate.share.rights(share);
  if (hosts === 'nothing')
    throw conflict(`Hosts may not read the share ${share}; give them that right on the page of shares`);
  await context.log(
    users === 'nothing'
      ? 'hosts read, people do not'
      : `people may ${users} the share too, which nobody needs; take that back on the page of shares`,
  );
}

function offerStep(parts: Parts, store: PackageStore, versionId: string, share: string): JobStep {
  return {
    title: 'Offer it',
    run: async () => {
      const { signer_pem } = await store.versions.get(versionId);
      const refusal = await offerRefusal(parts, signer_pem);
      if (refusal !== undefined) throw conflict(`Hosts would not attach it: it ${refusal}`);
      await parts.db.transact(async () => {
        // It may have been changed, or withdrawn, while it was on its way.
        const state = allowed(await store.versions.get(versionId), 'offer');
        await store.versions.update(versionId, { state, share });
      });
      parts.journal.tell('package', 'access', 'estate');
    },
  };
}
