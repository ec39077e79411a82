/** Signs a container: a detached signature beside it, over its digest. */
import { sign, verify, X509Certificate } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { dayOf, maySignCode, signingFault, validityAt } from '@vatline/core/container/signature/certificate';
import { issuerFault } from '@vatline/core/container/signature/issuer-limits';
import { readSignedData, signedData, type ReadSignature } from '@vatline/core/container/signature/cms';
import { writeAtomic } from './atomic.ts';
import { certificateFacts, isIssuedBy } from './certificate.ts';
import { InputError } from './input-error.ts';
import { failed, held, type Finding } from './finding.ts';
import type { SigningIdentity } from './signing-identity.ts';

/** Where the signature of a container is. */
export function signaturePath(container: string): string {
  return `${container}.p7s`;
}

/** Throws `InputError` for a certificate that nobody should sign with at that instant, in milliseconds. */
export function checkMaySign(identity: SigningIdentity, at: number): void {
  const fault = signingFault(certificateFacts(identity.certificate), at);
  if (fault) throw InputError.of('certificate', fault);
}

/**
 * Signs and writes the signature, in place of an earlier one. `signedAt` in milliseconds. Throws
 * `InputError` for a certificate that nobody should sign with then.
 */
export function signContainer(
  container: string,
  digest: string,
  identity: SigningIdentity,
  signedAt: number,
): void {
  checkMaySign(identity, signedAt);
  const der = signedData({
    digest,
    signedAt,
    certificates: [identity.certificate.raw, ...identity.chain.map((certificate) => certificate.raw)],
    keyKind: identity.keyKind,
    sign: (bytes) => sign('sha256', bytes, identity.key),
  });
  writeAtomic(signaturePath(container), (append) => append(Buffer.from(der)));
}

/**
 * What can be said of the signature beside a container, each thing by itself: that it is there,
 * that it is over this digest, made with its certificate's key, within dates, for signing code,
 * and leads to a certificate that is trusted. `at` in milliseconds.
 */
export function signatureFindings(
  container: string,
  digest: string,
  trusted: readonly X509Certificate[],
  at: number,
): Finding[] {
  const path = signaturePath(container);
  if (!existsSync(path)) return [failed('signature: there is none beside the container')];
  const read = readSignedData(readFileSync(path));
  if (!read.ok) return read.error.map((fault) => failed(`signature: ${fault.message}`));
  const signature = read.value;
  const along = certificatesIn(signature);
  const certificate = along.find((one) => one.raw.equals(signature.signer));
  if (!certificate) return [failed('signature: brings a certificate along that cannot be read')];
  const facts = certificateFacts(certificate);
  const isMade = verify('sha256', signature.attributes, certificate.publicKey, signature.signature);
  return [
    signature.digest === digest
      ? held('signature: is over this container')
      : failed(`signature: is over another container, sha256:${signature.digest}`),
    isMade
      ? held(`signature: made with the key of ${facts.subject}`)
      : failed(`signature: not made with the key of ${facts.subject}`),
    datesFinding('certificate', certificate, at),
    maySignCode(facts) ? held('certificate: may sign code') : failed('certificate: is not for signing code'),
    ...chainFindings(certificate, along, trusted, at),
  ];
}

function certificatesIn(signature: ReadSignature): X509Certificate[] {
  return signature.certificates.flatMap((der) => {
    try {
      return [new X509Certificate(der)];
    } catch {
      return [];
    }
  });
}

function datesFinding(what: string, certificate: X509Certificate, at: number): Finding {
  const facts = certificateFacts(certificate);
  const validity = validityAt(facts, at);
  switch (validity.state) {
    case 'expired':
      return failed(`${what}: expired on ${dayOf(facts.validTo)}, ${validity.days} days ago`);
    case 'not yet valid':
      return failed(`${what}: is not valid before ${dayOf(facts.validFrom)}`);
    case 'valid':
      return held(`${what}: valid until ${dayOf(facts.validTo)}, for ${validity.days} days more`);
  }
}

/** Whether a certificate leads to one that is trusted, at an instant in milliseconds. */
export function isTrusted(
  certificate: X509Certificate,
  along: readonly X509Certificate[],
  trusted: readonly X509Certificate[],
  at: number,
): boolean {
  return chainFindings(certificate, along, trusted, at).every((finding) => finding.holds);
}

/** No chain that anybody uses is longer. */
const MOST_LINKS = 8;

/** From the signer upwards, by the certificates that came along, until one that is trusted. */
function chainFindings(
  signer: X509Certificate,
  along: readonly X509Certificate[],
  trusted: readonly X509Certificate[],
  at: number,
): Finding[] {
  const findings: Finding[] = [];
  const below: X509Certificate[] = [];
  let current = signer;
  for (let links = 0; links < MOST_LINKS; links++) {
    const own = current;
    const name = certificateFacts(own).subject;
    if (trusted.some((anchor) => anchor.fingerprint256 === own.fingerprint256))
      return [...findings, held(`chain: leads to ${name}, which is trusted`, 'chain')];
    const isIssuer = (other: X509Certificate) => other !== own && other.ca && isIssuedBy(own, other);
    const next = trusted.find(isIssuer) ?? along.find(isIssuer);
    if (!next) {
      const why = isIssuedBy(own, own)
        ? 'which is self-signed'
        : `whose issuer is ${certificateFacts(own).issuer}`;
      return [...findings, failed(`chain: ends at ${name}, ${why}; nothing there is trusted`, 'chain')];
    }
    const subject = `chain: ${certificateFacts(next).subject}`;
    const dates = datesFinding(subject, next, at);
    if (!dates.holds) findings.push({ ...dates, kind: 'chain' });
    below.unshift(own);
    const fault = issuerFault(
      next.raw,
      below.map((one) => one.raw),
    );
    if (fault) findings.push(failed(`${subject}: ${fault}`, 'chain'));
    current = next;
  }
  return [failed(`chain: is longer than ${MOST_LINKS} certificates`, 'chain')];
}
