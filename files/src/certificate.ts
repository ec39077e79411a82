/** X.509 certificates by Node's own reader. */
import type { X509Certificate } from 'node:crypto';
import type { CertificateFacts } from '@vatline/core/container/signature/certificate';

export function certificateFacts(certificate: X509Certificate): CertificateFacts {
  const { subject, issuer, serialNumber, fingerprint256, validFrom, validTo, ca, publicKey } = certificate;
  const details = publicKey.asymmetricKeyDetails;
  return {
    subject: oneLine(subject),
    issuer: oneLine(issuer),
    serial: serialNumber,
    fingerprint: fingerprint256.replaceAll(':', '').toLowerCase(),
    validFrom: Date.parse(validFrom),
    validTo: Date.parse(validTo),
    isAuthority: ca,
    isSelfSigned: isIssuedBy(certificate, certificate),
    // Node names this by the older word for it.
    uses: certificate.keyUsage ?? [],
    key: details?.modulusLength ? `RSA ${details.modulusLength}` : (details?.namedCurve ?? 'unknown'),
  };
}

/** Whether the one is signed with the key of the other, which may do so. */
export function isIssuedBy(certificate: X509Certificate, issuer: X509Certificate): boolean {
  return certificate.checkIssued(issuer) && certificate.verify(issuer.publicKey);
}

/** Node gives the parts of a name on lines of their own, the most general first. */
function oneLine(name: string): string {
  return name.split('\n').reverse().join(', ');
}
