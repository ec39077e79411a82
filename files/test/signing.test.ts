/** Signatures: made by us and checked by openssl, and every way in which one can be wrong. */
import { execFileSync, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { validityAt } from '@vatline/core/container/signature/certificate';
import { certificateFacts } from '../src/certificate.ts';
import { folderTree } from '../src/folder-tree.ts';
import { packContainer } from '../src/pack-container.ts';
import { signatureFindings, signContainer } from '../src/sign-container.ts';
import { readCertificates, readIdentity } from '../src/signing-identity.ts';

const work = mkdtempSync(join(tmpdir(), 'vatline-signing-'));
const at = (name: string) => join(work, name);
const openssl = (...args: string[]) =>
  execFileSync('openssl', args, { cwd: work, encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] });
const NOW = Date.UTC(2027, 2, 22, 8);
const container = at('z.squashfs');
let digest = '';

/** An authority of its own, and under it certificates with keys, as PKCS #12 with the password "open". */
function authority(name: string): void {
  openssl(
    'req',
    '-x509',
    '-newkey',
    'rsa:2048',
    '-nodes',
    '-keyout',
    `${name}.key`,
    '-out',
    `${name}.pem`,
    '-subj',
    `/O=Wrenfield/CN=${name}`,
    '-days',
    '3650',
  );
}

function issue(
  name: string,
  issuer: string,
  uses: string,
  days: number,
  key = ['-newkey', 'rsa:2048'],
): void {
  const conf = `${uses ? `extendedKeyUsage=${uses}\n` : ''}basicConstraints=CA:FALSE\n`;
  writeFileSync(at(`${name}.ext`), conf);
  openssl(
    'req',
    '-new',
    ...key,
    '-nodes',
    '-keyout',
    `${name}.key`,
    '-out',
    `${name}.csr`,
    '-subj',
    `/O=Wrenfield/CN=${name}`,
  );
  openssl(
    'x509',
    '-req',
    '-in',
    `${name}.csr`,
    '-CA',
    `${issuer}.pem`,
    '-CAkey',
    `${issuer}.key`,
    '-CAcreateserial',
    '-out',
    `${name}.pem`,
    '-days',
    String(days),
    '-extfile',
    `${name}.ext`,
  );
  openssl(
    'pkcs12',
    '-export',
    '-inkey',
    `${name}.key`,
    '-in',
    `${name}.pem`,
    '-certfile',
    `${issuer}.pem`,
    '-out',
    `${name}.p12`,
    '-passout',
    'pass:open',
  );
}

const identity = (name: string, password = 'open') =>
  readIdentity(name, readFileSync(at(`${name}.p12`)), password);
const trust = (name: string) => readCertificates(name, readFileSync(at(`${name}.pem`), 'utf8'));
/** The certificates here begin today, not in the story; so their own dates are the clock. */
const within = () => certificateFacts(identity('signer').certificate).validFrom + 60_000;

const check = (store: string, instant = within()) =>
  Object.fromEntries(
    signatureFindings(container, digest, trust(store), instant).map(({ holds, what }) => [what, holds]),
  );
const opensslVerifies = (content: string) =>
  spawnSync('openssl', [
    'cms',
    '-verify',
    '-binary',
    '-inform',
    'DER',
    '-in',
    `${container}.p7s`,
    '-content',
    content,
    '-CAfile',
    at('root.pem'),
    '-purpose',
    'any',
    '-out',
    '/dev/null',
  ]).status;

beforeAll(async () => {
  mkdirSync(at('tree'));
  writeFileSync(at('tree/zinnet.exe'), 'program');
  authority('root');
  authority('stranger');
  issue('signer', 'root', 'codeSigning', 365);
  issue('curve', 'root', 'codeSigning', 365, ['-newkey', 'ec', '-pkeyopt', 'ec_paramgen_curve:prime256v1']);
  issue('mailer', 'root', 'emailProtection', 365);
  const manifest = { name: 'Zinnet', version: '1', publisher: 'Zinnet', entryPoints: [] };
  digest = (
    await packContainer({ tree: folderTree(at('tree')), format: 'squashfs', out: container, manifest })
  ).sha256;
});
afterAll(() => rmSync(work, { recursive: true, force: true }));

describe.each(['signer', 'curve'])('a signature with the key of %s', (name) => {
  it('holds, for us and for openssl', () => {
    signContainer(container, digest, identity(name), within());
    expect(opensslVerifies(container)).toBe(0);
    const findings = check('root');
    expect(Object.values(findings)).toEqual([true, true, true, true, true]);
    expect(Object.keys(findings)).toEqual([
      'signature: is over this container',
      `signature: made with the key of CN=${name}, O=Wrenfield`,
      expect.stringMatching(/^certificate: valid until \d{4}-\d\d-\d\d, for 364 days more$/),
      'certificate: may sign code',
      'chain: leads to CN=root, O=Wrenfield, which is trusted',
    ]);
  });
  it('does not hold for either after one byte of the container changed', () => {
    const bytes = readFileSync(container);
    bytes[200] = (bytes[200] ?? 0) ^ 1;
    writeFileSync(at('changed'), bytes);
    expect(opensslVerifies(at('changed'))).not.toBe(0);
    const findings = signatureFindings(container, 'f'.repeat(64), trust('root'), within());
    expect(findings[0]).toEqual({
      holds: false,
      what: `signature: is over another container, sha256:${digest}`,
    });
  });
});

describe('what can be wrong, each by itself', () => {
  beforeAll(() => signContainer(container, digest, identity('signer'), within()));
  it('nobody above it is trusted', () =>
    expect(check('stranger')).toHaveProperty(
      ['chain: ends at CN=root, O=Wrenfield, which is self-signed; nothing there is trusted'],
      false,
    ));
  it('expired, and not yet valid', () => {
    const { validTo } = certificateFacts(identity('signer').certificate);
    const late = Object.entries(check('root', validTo + 3 * 86_400_000 + 1));
    expect(late.filter(([, holds]) => !holds).map(([what]) => what)).toEqual([
      expect.stringMatching(/^certificate: expired on \d{4}-\d\d-\d\d, 3 days ago$/),
    ]);
    const early = Object.entries(check('root', 0));
    expect(early.filter(([, holds]) => !holds).map(([what]) => what)).toEqual([
      expect.stringMatching(/^certificate: is not valid before/),
      expect.stringMatching(/^chain: CN=root, O=Wrenfield: is not valid before/),
    ]);
  });
  it('a signature that was changed, that is none, that is missing', () => {
    const good = readFileSync(`${container}.p7s`);
    const bad = Buffer.from(good);
    bad[bad.length - 3] = (bad[bad.length - 3] ?? 0) ^ 1;
    writeFileSync(`${container}.p7s`, bad);
    expect(check('root')).toHaveProperty(
      ['signature: not made with the key of CN=signer, O=Wrenfield'],
      false,
    );
    writeFileSync(`${container}.p7s`, 'nonsense');
    expect(check('root')).toEqual({ 'signature: is not CMS signed data in DER': false });
    rmSync(`${container}.p7s`);
    expect(check('root')).toEqual({ 'signature: there is none beside the container': false });
    writeFileSync(`${container}.p7s`, good);
  });
});

describe('keys', () => {
  it('in PEM too', () => {
    const pem = Buffer.concat(['signer.key', 'signer.pem'].map((name) => readFileSync(at(name))));
    expect(readIdentity('signer', pem, '').keyKind).toBe('rsa');
  });
  it.each([
    ['a wrong password', () => identity('signer', 'shut'), 'signer: is not opened by this password'],
    ['nonsense', () => readIdentity('x', Buffer.from('nonsense'), ''), 'x: is neither PKCS #12 nor PEM'],
    [
      'certificates only',
      () => readIdentity('x', readFileSync(at('root.pem')), ''),
      'x: holds no private key',
    ],
    [
      'a key of another certificate',
      () => readIdentity('x', Buffer.concat(['curve.key', 'signer.pem'].map((f) => readFileSync(at(f)))), ''),
      'x: has no certificate that belongs to its key',
    ],
    ['no certificate', () => readCertificates('x', 'nothing'), 'x: holds no certificate in PEM'],
    [
      'a certificate for another use',
      () => signContainer(container, digest, identity('mailer'), within()),
      'certificate: is not for signing code: its extended key usage does not name it',
    ],
    [
      'one that is not valid yet',
      () => signContainer(container, digest, identity('signer'), 0),
      /certificate: is not valid before/,
    ],
  ])('%s', (_what, use, why) => expect(use).toThrow(why));
});

it.each([
  [61, undefined],
  [60, 60],
  [30, 30],
  [9, 30],
  [7, 7],
  [0, 7],
])('with %s days left, the warning is that of %s', (days, warning) => {
  const facts = { validFrom: 0, validTo: NOW + days * 86_400_000 };
  expect(validityAt(facts, NOW)).toEqual({ state: 'valid', days, ...(warning ? { warning } : {}) });
});
