/** Certificates that sign containers: whether they may, from when until when, and when to replace them. */

const DAY = 86_400_000;
/** Days before its end at which a certificate is warned of. */
export const warningDays = [60, 30, 7] as const;

/** What is known of an X.509 certificate. Instants in milliseconds since 1970. */
export interface CertificateFacts {
  readonly subject: string;
  readonly issuer: string;
  readonly serial: string;
  /** SHA-256 of its DER, in hex. */
  readonly fingerprint: string;
  readonly validFrom: number;
  readonly validTo: number;
  readonly isAuthority: boolean;
  readonly isSelfSigned: boolean;
  /** Object identifiers of what it may be used for; empty when that is not limited. */
  readonly uses: readonly string[];
  /** RSA with its bits, or the curve. */
  readonly key: string;
}

const CODE_SIGNING = '1.3.6.1.5.5.7.3.3';
const ANY_USE = '2.5.29.37.0';

export type Validity =
  | { readonly state: 'not yet valid'; readonly days: number }
  | { readonly state: 'valid'; readonly days: number; readonly warning?: number }
  | { readonly state: 'expired'; readonly days: number };

/** Where an instant lies in a certificate's life; days are whole ones that are left, or gone. */
export function validityAt(facts: Pick<CertificateFacts, 'validFrom' | 'validTo'>, at: number): Validity {
  if (at < facts.validFrom) return { state: 'not yet valid', days: Math.ceil((facts.validFrom - at) / DAY) };
  if (at > facts.validTo) return { state: 'expired', days: Math.floor((at - facts.validTo) / DAY) };
  const days = Math.floor((facts.validTo - at) / DAY);
  const warning = [...warningDays].reverse().find((limit) => days <= limit);
  return { state: 'valid', days, ...(warning === undefined ? {} : { warning }) };
}

/** Whether it may sign code: it says so, or says nothing of uses. */
export function maySignCode(facts: Pick<CertificateFacts, 'uses'>): boolean {
  return facts.uses.length === 0 || facts.uses.some((use) => use === CODE_SIGNING || use === ANY_USE);
}

/** Why nobody should sign with it now, or nothing. */
export function signingFault(facts: CertificateFacts, at: number): string | undefined {
  const validity = validityAt(facts, at);
  if (validity.state === 'expired') return `expired on ${dayOf(facts.validTo)}`;
  if (validity.state === 'not yet valid') return `is not valid before ${dayOf(facts.validFrom)}`;
  if (!maySignCode(facts)) return 'is not for signing code: its extended key usage does not name it';
  return undefined;
}

/** The day in UTC, as certificates have it. */
export function dayOf(instant: number): string {
  return new Date(instant).toISOString().slice(0, 10);
}
