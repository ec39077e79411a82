/** Asks the rule about attaching for package versions as the database has them. */
import type { X509Certificate } from 'node:crypto';
import {
  attachRefusal,
  signatureRefusal,
  type AttachCandidate,
  type SignedBy,
} from '@vatline/core/package/attachable';
import type { Fault } from '@vatline/core/result';
import { certificateFacts } from '@vatline/files/certificate';
import { isTrusted } from '@vatline/files/sign-container';
import { readCertificates } from '@vatline/files/signing-identity';
import type { Parts } from '../platform/parts.ts';

type Asked = Pick<Parts, 'db' | 'estate'>;

/** Why hosts of a pool would refuse versions at any of the instants, at `packageVersionIds.<index>`. */
export async function attachFaults(
  parts: Asked,
  ids: readonly string[],
  pool: string,
  instants: readonly number[],
): Promise<Fault[]> {
  const known = await attachCandidates(parts, ids, pool);
  return ids.flatMap((id, i) => {
    const path = `packageVersionIds.${i}`;
    const found = known.get(id);
    if (!found) return [{ path, message: 'there is no such package version' }];
    const refusal = instants.map((at) => attachRefusal(found, at)).find((why) => why !== undefined);
    return refusal === undefined ? [] : [{ path, message: `${found.name} ${refusal}` }];
  });
}

/** Why a version is not to be offered: hosts of no pool would attach it now. */
export async function offerRefusal(parts: Asked, signerPem: string | null): Promise<string | undefined> {
  const pools = await parts.db.selectFrom('pool').select('name').execute();
  const now = parts.estate.clock.now();
  // Without a pool there is nobody yet whose trust could be asked.
  if (pools.length === 0) {
    const signature = signedBy(signerPem, []);
    return signatureRefusal(signature && { ...signature, isTrusted: true }, now);
  }
  let refusal: string | undefined;
  for (const { name } of pools) {
    refusal = signatureRefusal(signedBy(signerPem, await trustedBy(parts, name)), now);
    if (refusal === undefined) return undefined;
  }
  return refusal;
}

export interface NamedCandidate extends AttachCandidate {
  /** With its version. */
  readonly name: string;
}

/** What the rule asks about versions, for the hosts of a pool, by id; those that are not there are left out. */
export async function attachCandidates(
  parts: Asked,
  ids: readonly string[],
  pool: string,
): Promise<ReadonlyMap<string, NamedCandidate>> {
  if (ids.length === 0) return new Map();
  const rows = await parts.db
    .selectFrom('package_version')
    .innerJoin('package', 'package.id', 'package_version.package_id')
    .select([
      'package_version.id',
      'package.name',
      'package_version.version',
      'package_version.state',
      'package_version.signer_pem',
    ])
    .where('package_version.id', 'in', ids)
    .execute();
  const trusted = await trustedBy(parts, pool);
  return new Map(
    rows.map(({ id, name, version, state, signer_pem }) => [
      id,
      {
        name: `${name} ${version}`,
        state,
        signature: signedBy(signer_pem, trusted),
      },
    ]),
  );
}

async function trustedBy({ estate }: Asked, pool: string): Promise<X509Certificate[]> {
  const pems = await estate.trust.of(pool);
  return pems.length > 0 ? readCertificates(`trust store of ${pool}`, pems.join('\n')) : [];
}

/** A signature by its signer's certificate, with those above it behind it. */
function signedBy(signerPem: string | null, trusted: readonly X509Certificate[]): SignedBy | undefined {
  if (signerPem === null) return undefined;
  const [certificate, ...along] = readCertificates('signer', signerPem);
  if (!certificate) return undefined;
  const { validFrom, validTo } = certificateFacts(certificate);
  // Dates are judged apart, at the instant of the attach; a chain is good or not at its beginning.
  return { validFrom, validTo, isTrusted: isTrusted(certificate, along, trusted, validFrom) };
}
