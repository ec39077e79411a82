/** What a practice host looks at before it attaches a container: that it may read it, and its signature. */
import { signatureFindings } from '@vatline/files/sign-container';
import { readCertificates } from '@vatline/files/signing-identity';
import type { Finding } from '@vatline/files/finding';
import { HOUR, type Instant } from '@vatline/core/time/instant';
import { EstateError } from '../../driver/operations.ts';
import type { WantedMount } from '../../driver/hosts.ts';
import type { EstateDb } from '../estate-database.ts';
import type { PracticeShare } from '../share.ts';
import type { PracticeTrust } from './trust.ts';

/** Findings of so many containers are remembered; a night asks for the same few again and again. */
const MOST_KNOWN = 500;

export class AttachGate {
  private readonly known = new Map<string, readonly Finding[]>();

  constructor(
    private readonly db: EstateDb,
    private readonly share: PracticeShare,
    private readonly trust: PracticeTrust,
  ) {}

  /** Throws when a host may not read the container, or its signature does not hold at the instant. */
  async check(host: string, { share, digest }: WantedMount, at: Instant): Promise<void> {
    const path = await this.share.pathForHosts(share, digest);
    const pool = await this.poolOf(host);
    const failed = (await this.findings(path, digest, pool, at)).find((finding) => !finding.holds);
    if (failed)
      throw new EstateError(
        'permission',
        `${host} refuses the container ${digest.slice(0, 12)}: ${failed.what}`,
      );
  }

  /** Whatever changes within the hour is seen in the next one. */
  private async findings(
    path: string,
    digest: string,
    pool: string,
    at: Instant,
  ): Promise<readonly Finding[]> {
    const key = `${path} ${this.share.changedAt(`${path}.p7s`)} ${pool} ${Math.floor(at / HOUR)}`;
    const known = this.known.get(key);
    if (known) return known;
    const pems = await this.trust.of(pool);
    const trusted = pems.length > 0 ? readCertificates(`trust store of ${pool}`, pems.join('\n')) : [];
    const findings = signatureFindings(path, digest, trusted, at);
    if (this.known.size >= MOST_KNOWN) this.known.clear();
    this.known.set(key, findings);
    return findings;
  }

  private async poolOf(host: string): Promise<string> {
    const row = await this.db
      .selectFrom('registration')
      .select('pool')
      .where('host', '=', host)
      .executeTakeFirst();
    return row?.pool ?? '';
  }
}
