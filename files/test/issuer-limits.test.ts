/** What authorities allow below them, each chain judged by openssl as well. */
import { execFileSync, spawnSync } from 'node:child_process';
import { X509Certificate } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { issuerFault } from '@vatline/core/container/signature/issuer-limits';
import { isTrusted } from '../src/sign-container.ts';

const work = mkdtempSync(join(tmpdir(), 'vatline-issuers-'));
const openssl = (...args: string[]) => execFileSync('openssl', args, { cwd: work, stdio: 'pipe' });
afterAll(() => rmSync(work, { recursive: true, force: true }));

const KEY = ['-newkey', 'ec', '-pkeyopt', 'ec_paramgen_curve:P-256', '-nodes'];

function issue(
  name: string,
  issuer: string,
  extensions: readonly string[],
  subject = `/O=Wrenfield/CN=${name}`,
) {
  writeFileSync(join(work, `${name}.ext`), extensions.join('\n'));
  openssl('req', '-new', ...KEY, '-keyout', `${name}.key`, '-out', `${name}.csr`, '-subj', subject);
  const from = ['-CA', `${issuer}.pem`, '-CAkey', `${issuer}.key`, '-CAcreateserial', '-days', '3000'];
  openssl('x509', '-req', '-in', `${name}.csr`, ...from, '-extfile', `${name}.ext`, '-out', `${name}.pem`);
}

const authority = (limits = '') => [
  `basicConstraints=critical,CA:TRUE${limits}`,
  'keyUsage=critical,keyCertSign,cRLSign',
];
const names = (...constraints: string[]) => [
  ...authority(),
  `nameConstraints=critical,${constraints.join(',')}`,
  '[library]',
  'O=Wrenfield',
  '[desks]',
  'O=Wrenfield',
  'OU=Desks',
];
const signer = ['extendedKeyUsage=codeSigning', 'basicConstraints=CA:FALSE'];

beforeAll(() => {
  const root = ['-subj', '/O=Wrenfield/CN=root', '-days', '3650', '-out', 'root.pem', '-keyout', 'root.key'];
  openssl('req', '-x509', ...KEY, ...root, '-addext', 'keyUsage=critical,keyCertSign');
  issue('plain', 'root', authority());
  issue('plain-signer', 'plain', signer);
  issue('short', 'root', authority(',pathlen:0'));
  issue('short-signer', 'short', signer);
  issue('below-short', 'short', authority());
  issue('deep-signer', 'below-short', signer);
  issue('one', 'root', authority(',pathlen:1'));
  issue('below-one', 'one', authority());
  issue('one-signer', 'below-one', signer);
  issue('lists-only', 'root', ['basicConstraints=critical,CA:TRUE', 'keyUsage=critical,cRLSign']);
  issue('lists-signer', 'lists-only', signer);
  issue('named', 'root', names('permitted;dirName:library'));
  issue('named-signer', 'named', signer, '/O=Wrenfield/OU=Maps/CN=named-signer');
  issue('case-signer', 'named', signer, '/O=WRENFIELD/CN=case-signer');
  issue('other-signer', 'named', signer, '/O=Quillmark/CN=other-signer');
  issue('without', 'root', names('permitted;dirName:library', 'excluded;dirName:desks'));
  issue('desk-signer', 'without', signer, '/O=Wrenfield/OU=Desks/CN=desk-signer');
  issue('maps-signer', 'without', signer, '/O=Wrenfield/OU=Maps/CN=maps-signer');
});

const read = (name: string) => new X509Certificate(readFileSync(join(work, `${name}.pem`)));

/** What openssl says of a chain, from below the root down. */
function opensslTrusts(chain: readonly string[]): boolean {
  const pem = chain.slice(0, -1).map((name) => readFileSync(join(work, `${name}.pem`), 'utf8'));
  writeFileSync(join(work, 'between.pem'), pem.join(''));
  const args = ['verify', '-purpose', 'any', '-CAfile', 'root.pem', '-untrusted', 'between.pem'];
  return spawnSync('openssl', [...args, `${chain.at(-1) ?? ''}.pem`], { cwd: work }).status === 0;
}

describe('an issuer', () => {
  it.each([
    [['plain', 'plain-signer'], undefined],
    [['short', 'short-signer'], undefined],
    [['short', 'below-short', 'deep-signer'], 'it allows 0 issuers below it, and 1 is there'],
    [['one', 'below-one', 'one-signer'], undefined],
    [['lists-only', 'lists-signer'], 'its key usage does not include signing certificates'],
    [['named', 'named-signer'], undefined],
    [['named', 'case-signer'], undefined],
    [['named', 'other-signer'], 'it does not permit the name Quillmark, other-signer'],
    [['without', 'maps-signer'], undefined],
    [['without', 'desk-signer'], 'it excludes the name Wrenfield, Desks, desk-signer'],
  ])('%j is judged as openssl judges it', (chain, fault) => {
    const [issuer = '', ...below] = chain;
    expect(
      issuerFault(
        read(issuer).raw,
        below.map((name) => read(name).raw),
      ),
    ).toBe(fault);
    const along = chain.slice(0, -1).map(read);
    const trusted = isTrusted(read(chain.at(-1) ?? ''), along, [read('root')], Date.now());
    expect(trusted).toBe(fault === undefined);
    expect(trusted).toBe(opensslTrusts(chain));
  });

  it('is judged whatever stands in extensions that nobody knows, and refused where its own cannot be read', () => {
    issue('odd', 'root', [...authority(), '1.2.3.4=DER:FF:FF:01']);
    issue('odd-signer', 'odd', [...signer, '1.2.3.4=DER:FF:FF:01']);
    expect(issuerFault(read('odd').raw, [read('odd-signer').raw])).toBeUndefined();
    expect(issuerFault(Uint8Array.of(1, 2, 3), [])).toBe('what it allows cannot be read');
  });

  it('that limits names of other kinds is trusted only for certificates without them', () => {
    issue('mail', 'root', [...authority(), 'nameConstraints=critical,permitted;email:wrenfield.example']);
    issue('mail-signer', 'mail', [...signer, 'subjectAltName=email:a@wrenfield.example']);
    issue('mail-plain', 'mail', signer);
    expect(issuerFault(read('mail').raw, [read('mail-plain').raw])).toBeUndefined();
    expect(issuerFault(read('mail').raw, [read('mail-signer').raw])).toBe(
      'it limits names of a kind that is not judged here',
    );
  });
});
