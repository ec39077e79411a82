/** Signs containers of versions. */
import { InputError } from '@vatline/files/input-error';
import { signContainer } from '@vatline/files/sign-container';
import { change } from '../platform/change.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid } from '../platform/problem.ts';
import type { CertificateStore } from './certificates.ts';
import { sendSignature } from './offer-job.ts';
import { allowed, versionNote } from './version-deed.ts';
import { unsigned } from './versions.ts';
import type { PackageStore } from './store.ts';

/** Signs the container of a version, in place of an earlier signature. */
export async function signVersion(
  parts: Parts,
  store: PackageStore,
  certificates: CertificateStore,
  versionId: string,
  certificateId: string,
): Promise<void> {
  const version = await store.versions.get(versionId);
  const identity = await certificates.identity(certificateId);
  const now = parts.estate.clock.now();
  try {
    signContainer(store.containers.path(version.digest), version.digest, identity, now);
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    throw invalid(
      error.faults.map(({ message }) => ({
        path: 'certificateId',
        message: `This certificate ${message}`,
      })),
    );
  }
  const { name, chain_pem } = await certificates.row(certificateId);
  const title = await store.versions.titleOf(version);
  await change(
    parts,
    async () => {
      // It may have been offered, or another container chosen, while it was signed.
      const current = await store.versions.get(version.id);
      if (current.digest !== version.digest)
        throw conflict('Another container was chosen while it was signed; sign it again');
      await store.versions.update(version.id, {
        ...unsigned,
        certificate_id: certificateId,
        signed_ms: now,
        signer_pem: chain_pem,
        state: allowed(current, 'sign'),
      });
    },
    () => versionNote(version, `${title} was signed with ${name}`),
  );
  // Hosts look at the signature beside the container that they read.
  if (version.share !== null) await sendSignature(parts, store, version.share, version.digest);
}
