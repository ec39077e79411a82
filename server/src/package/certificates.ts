/** The certificates that containers are signed with. Their keys are sealed and never leave the server. */
import type { X509Certificate } from 'node:crypto';
import type { Certificate } from '@vatline/contract/package';
import { signingFault, validityAt } from '@vatline/core/container/signature/certificate';
import { certificateFacts } from '@vatline/files/certificate';
import { isTrusted } from '@vatline/files/sign-container';
import { readCertificates, readIdentity, type SigningIdentity } from '@vatline/files/signing-identity';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import type { Sealer } from '../platform/sealed.ts';
import type { CertificateRow as Row } from './tables.ts';

export class CertificateStore {
  constructor(
    private readonly parts: Pick<Parts, 'db' | 'estate'>,
    private readonly sealer: Sealer,
  ) {}

  /** Why no certificate can sign, in words; empty when they can. */
  get keyFault(): string {
    return this.sealer.fault;
  }

  async add(name: string, identity: SigningIdentity): Promise<string> {
    const id = newId('certificate');
    const chain = [identity.certificate, ...identity.chain];
    await this.parts.db
      .insertInto('certificate')
      .values({
        id,
        name,
        chain_pem: chain.map((certificate) => certificate.toString()).join(''),
        sealed_key: this.sealer.seal(identity.key.export({ type: 'pkcs8', format: 'pem' }).toString()),
        created_ms: this.parts.estate.clock.now(),
      })
      .execute();
    return id;
  }

  async row(id: string): Promise<Row> {
    const row = await this.parts.db
      .selectFrom('certificate')
      .selectAll()
      .where('id', '=', id)
      .executeTakeFirst();
    if (!row) throw notFound('such certificate');
    return row;
  }

  /** The key with its certificates, for the moment of signing. */
  async identity(id: string): Promise<SigningIdentity> {
    const row = await this.row(id);
    const pem = this.sealer.unseal(row.sealed_key) + row.chain_pem;
    return readIdentity(row.name, Buffer.from(pem), '');
  }

  async remove(id: string): Promise<void> {
    await this.row(id);
    const { db } = this.parts;
    await db
      .updateTable('package_version')
      .set({ certificate_id: null })
      .where('certificate_id', '=', id)
      .execute();
    await db.deleteFrom('certificate').where('id', '=', id).execute();
  }

  async list(): Promise<Certificate[]> {
    const rows = await this.parts.db.selectFrom('certificate').selectAll().orderBy('name').execute();
    const signed = await this.parts.db
      .selectFrom('package_version')
      .select(({ fn }) => ['certificate_id', fn.countAll<number>().as('count')])
      .groupBy('certificate_id')
      .execute();
    const counts = new Map(signed.map((row) => [row.certificate_id, row.count]));
    const stores = await this.trustByPool();
    const now = this.parts.estate.clock.now();
    const keyFault = this.keyFault === '' ? '' : `cannot sign: ${this.keyFault}`;
    return rows.map((row) => presented(row, stores, now, counts.get(row.id) ?? 0, keyFault));
  }

  /** What the hosts of each pool trust. */
  async trustByPool(): Promise<Map<string, X509Certificate[]>> {
    const pools = await this.parts.db.selectFrom('pool').select('name').orderBy('name').execute();
    const stores = new Map<string, X509Certificate[]>();
    for (const { name } of pools) {
      const pems = await this.parts.estate.trust.of(name);
      stores.set(name, pems.length > 0 ? readCertificates(`trust store of ${name}`, pems.join('\n')) : []);
    }
    return stores;
  }
}

function presented(
  row: Row,
  stores: ReadonlyMap<string, X509Certificate[]>,
  now: number,
  signed: number,
  keyFault: string,
): Certificate {
  const [certificate, ...chain] = readCertificates(row.name, row.chain_pem) as [
    X509Certificate,
    ...X509Certificate[],
  ];
  const facts = certificateFacts(certificate);
  const pools = [...stores].map(([pool, trusted]) => ({
    pool,
    trusts: isTrusted(certificate, chain, trusted, now),
  }));
  const { subject, issuer, serial, fingerprint, key, validFrom, validTo } = facts;
  return {
    id: row.id,
    name: row.name,
    subject,
    issuer,
    serial,
    fingerprint,
    key,
    validFrom,
    validTo,
    validity: validityAt(facts, now),
    fault: keyFault || (signingFault(facts, now) ?? ''),
    trustedBy: pools.filter((one) => one.trusts).map((one) => one.pool),
    notTrustedBy: pools.filter((one) => !one.trusts).map((one) => one.pool),
    signed,
  };
}
