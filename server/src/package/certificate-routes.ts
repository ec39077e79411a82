import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Request } from 'express';
import { packageEndpoints, packageFileEndpoints } from '@vatline/contract/package';
import { readIdentity, type SigningIdentity } from '@vatline/files/signing-identity';
import { change, DONE } from '../platform/change.ts';
import type { Note } from '../platform/journal.ts';
import { readForm } from '../platform/form.ts';
import type { Door } from '../platform/door.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid } from '../platform/problem.ts';
import type { CertificateStore } from './certificates.ts';
import { identityWork } from './work.ts';

/** A key with a long chain has 20 kB. */
const MOST_BYTES = 1_000_000;
/** Opening one takes milliseconds, and seconds where its maker made guessing passwords slow. */
const PATIENCE_MS = 20_000;

/** Certificates come as PKCS #12 or PEM with their key; what goes out never has a key. */
export function certificateRoutes(door: Door, parts: Parts, store: CertificateStore): void {
  door.serve(packageEndpoints.certificates, () => store.list());

  door.serve(packageEndpoints.deleteCertificate, async ({ params }) => {
    const { name } = await store.row(params.id);
    return change(
      parts,
      async () => {
        await store.remove(params.id);
        return DONE;
      },
      () => certificateNote(params.id, `The signing certificate ${name} was deleted`),
    );
  });

  // A form, not JSON, so it stands outside the checked endpoints; every part is checked here.
  door.serveRaw(packageFileEndpoints.bringCertificate, async ({ request }) => {
    const { name, identity } = await receive(request, parts);
    return change(
      parts,
      async () => {
        const known = await parts.db
          .selectFrom('certificate')
          .select('id')
          .where('name', '=', name)
          .execute();
        if (known.length > 0)
          throw invalid([{ path: 'name', message: `There is a certificate named ${name} already` }]);
        return { id: await store.add(name, identity) };
      },
      ({ id }) => certificateNote(id, `The signing certificate ${name} was brought in`),
    );
  });
}

function certificateNote(id: string, text: string): Omit<Note, 'at'> {
  return { kind: 'packages', subject: `certificate:${id}`, text, link: '/packages/certificates' };
}

/** The key is in a file for as long as reading it takes. */
async function receive(request: Request, parts: Parts): Promise<{ name: string; identity: SigningIdentity }> {
  const folder = join(parts.dataFolder, 'uploads', newId('certificate'));
  try {
    const form = await readForm(request, folder, { file: { name: 'identity', maxBytes: MOST_BYTES } });
    const faults = form.faults;
    const name = form.fields.get('name')?.trim() ?? '';
    if (name === '') faults.push({ path: 'name', message: 'is empty' });
    const path = form.files.get('file');
    if (path === undefined) faults.push({ path: 'file', message: 'is missing; choose a file' });
    if (faults.length > 0 || path === undefined) throw invalid(faults);
    return { name, identity: await identityIn(parts, path, form.fields.get('password') ?? '') };
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function identityIn(parts: Parts, path: string, password: string): Promise<SigningIdentity> {
  const signal = AbortSignal.timeout(PATIENCE_MS);
  const read = await identityWork(parts, 'readUploadedIdentity', { path, password }, { signal }).catch(
    (error: unknown) => {
      if (!signal.aborted) throw error;
      const message = `could not be opened in ${PATIENCE_MS / 1000} seconds; export it anew with fewer iterations`;
      throw invalid([{ path: 'file', message }]);
    },
  );
  if (!('key' in read)) throw invalid(read);
  return readIdentity('', Buffer.from(read.key + read.chain.join('')), '');
}
