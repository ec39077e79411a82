import { readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { Request, Router } from 'express';
import { packageEndpoints } from '@vatline/contract/package';
import { InputError } from '@vatline/files/input-error';
import { readIdentity, type SigningIdentity } from '@vatline/files/signing-identity';
import { readForm } from '../platform/form.ts';
import { serve } from '../platform/http.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid } from '../platform/problem.ts';
import type { CertificateStore } from './certificates.ts';

const MOST_BYTES = 1_000_000;

/** Certificates come as PKCS #12 or PEM with their key; what goes out never has a key. */
export function certificateRoutes(router: Router, parts: Parts, store: CertificateStore): void {
  serve(router, packageEndpoints.certificates, () => store.list());

  serve(router, packageEndpoints.deleteCertificate, async ({ params }) => {
    await store.remove(params.id);
    parts.journal.tell('packages');
    return { done: true as const };
  });

  // A form, not JSON, so it stands outside the checked endpoints; every part is checked here.
  router.post('/certificates', async (request, response) => {
    const { name, identity } = await receive(request, parts);
    const known = await parts.db.selectFrom('certificate').select('id').where('name', '=', name).execute();
    if (known.length > 0)
      throw invalid([{ path: 'name', message: `There is a certificate named ${name} already` }]);
    const id = await store.add(name, identity);
    await parts.journal.note({
      at: parts.estate.clock.now(),
      kind: 'packages',
      subject: `certificate:${id}`,
      text: `The signing certificate ${name} was brought in`,
      link: '/packages/certificates',
    });
    parts.journal.tell('packages');
    response.json({ id });
  });
}

/** The key is in a file for as long as reading it takes. */
async function receive(request: Request, parts: Parts): Promise<{ name: string; identity: SigningIdentity }> {
  const folder = join(parts.dataFolder, 'uploads', newId('certificate'));
  try {
    const form = await readForm(request, folder, { file: 'identity' }, MOST_BYTES);
    const faults = form.faults;
    const name = form.fields.get('name')?.trim() ?? '';
    if (name === '') faults.push({ path: 'name', message: 'is empty' });
    const path = form.files.get('file');
    if (path === undefined) faults.push({ path: 'file', message: 'is missing; choose a file' });
    if (faults.length > 0 || path === undefined) throw invalid(faults);
    return { name, identity: identityIn(path, form.fields.get('password') ?? '') };
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

function identityIn(path: string, password: string): SigningIdentity {
  try {
    return readIdentity('', readFileSync(path), password);
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    throw invalid(
      error.faults.map(({ message }) => ({
        path: message.includes('password') ? 'password' : 'file',
        message,
      })),
    );
  }
}
