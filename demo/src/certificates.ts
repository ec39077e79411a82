/** The library's made-up certificate authority and the certificates that packages are signed with. */
import { generateKeyPairSync } from 'node:crypto';
import forge from 'node-forge';

export interface DemoCertificate {
  readonly name: string;
  /** Certificate, those above it, and the private key, all in PEM. */
  readonly pem: string;
}

export interface DemoAuthority {
  /** What hosts trust. */
  readonly root: string;
  readonly valid: DemoCertificate;
  /** Runs out nine days after the demo begins. */
  readonly expiring: DemoCertificate;
  /** Nobody trusts it. */
  readonly untrusted: DemoCertificate;
}

const DAY = 86_400_000;

interface Issued {
  readonly certificate: forge.pki.Certificate;
  readonly key: forge.pki.rsa.PrivateKey;
  readonly keyPem: string;
}

/** Makes keys anew each time; `start` is the instant at which the demo begins, in milliseconds. */
export function makeAuthority(start: number): DemoAuthority {
  const root = issue('Wrenfield Desktop Root', '01', start - 900 * DAY, start + 2_700 * DAY);
  const valid = issue('Wrenfield Packaging 2026', '0a', start - 200 * DAY, start + 530 * DAY, root);
  const expiring = issue('Wrenfield Packaging 2025', '09', start - 721 * DAY, start + 9.5 * DAY, root);
  const untrusted = issue('Packager at the bench', '77', start - 30 * DAY, start + 335 * DAY);
  return {
    root: pemOf(root),
    valid: { name: 'Wrenfield Packaging 2026', pem: pemOf(valid) + pemOf(root) + valid.keyPem },
    expiring: { name: 'Wrenfield Packaging 2025', pem: pemOf(expiring) + pemOf(root) + expiring.keyPem },
    untrusted: { name: 'Packager at the bench', pem: pemOf(untrusted) + untrusted.keyPem },
  };
}

function pemOf({ certificate }: Issued): string {
  return forge.pki.certificateToPem(certificate);
}

/** Signed by the issuer; by itself without one, and then an authority. */
function issue(name: string, serial: string, from: number, to: number, issuer?: Issued): Issued {
  const pair = generateKeyPairSync('rsa', {
    modulusLength: 2048,
    publicKeyEncoding: { type: 'spki', format: 'pem' },
    privateKeyEncoding: { type: 'pkcs8', format: 'pem' },
  });
  const key = forge.pki.privateKeyFromPem(pair.privateKey);
  const certificate = forge.pki.createCertificate();
  certificate.publicKey = forge.pki.publicKeyFromPem(pair.publicKey);
  certificate.serialNumber = serial;
  certificate.validity.notBefore = new Date(from);
  certificate.validity.notAfter = new Date(to);
  const subject = [
    { name: 'organizationName', value: 'Wrenfield County Libraries' },
    { name: 'commonName', value: name },
  ];
  certificate.setSubject(subject);
  certificate.setIssuer(issuer ? issuer.certificate.subject.attributes : subject);
  const isAuthority = name.endsWith('Root');
  certificate.setExtensions([
    { name: 'basicConstraints', cA: isAuthority, critical: true },
    isAuthority
      ? { name: 'keyUsage', keyCertSign: true, cRLSign: true, critical: true }
      : { name: 'keyUsage', digitalSignature: true, critical: true },
    ...(isAuthority ? [] : [{ name: 'extKeyUsage', codeSigning: true }]),
  ]);
  certificate.sign(issuer?.key ?? key, forge.md.sha256.create());
  return { certificate, key, keyPem: pair.privateKey };
}
