/** Signs containers of versions. */
import { InputError } from '@vatline/files/input-error';
import { signContainer } from '@vatline/files/sign-container';
import type { Parts } from '../platform/parts.ts';
import { invalid } from '../platform/problem.ts';
import type { CertificateStore } from './certificates.ts';
import { sendSignature } from './offer-job.ts';
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
  await store.versions.update(version.id, {
    ...unsigned,
    certificate_id: certificateId,
    signed_ms: now,
    signer_pem: (await certificates.row(certificateId)).chain_pem,
    // What is live stays so: hosts have the same container under a newer signature. Anything else
    // has to be verified before it is offered.
    state: version.state === 'live' ? 'live' : 'draft',
  });
  // Hosts look at the signature beside the container that they read.
  if (version.share !== null) await sendSignature(parts, store, version.share, version.digest);
}
