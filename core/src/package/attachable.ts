/**
 * Whether hosts attach a container: the one rule that offering, rollouts, their forecasts, agents
 * and the home page ask.
 */
import type { PackageState } from './version-state.ts';
import { dayOf } from '../container/signature/certificate.ts';

/** What is known of the signature beside a container. Instants in milliseconds since 1970. */
export interface SignedBy {
  readonly validFrom: number;
  readonly validTo: number;
  /** Whether its certificate leads to one that the hosts of the pool trust. */
  readonly isTrusted: boolean;
}

export interface AttachCandidate {
  readonly state: PackageState;
  /** Undefined where there is none. */
  readonly signature: SignedBy | undefined;
}

/** Why hosts refuse to attach it at an instant, after its name; undefined when they attach it. */
export function attachRefusal(candidate: AttachCandidate, at: number): string | undefined {
  return stateRefusal(candidate.state) ?? signatureRefusal(candidate.signature, at);
}

/** A held version stays in its blends and is not offered, so that hosts step over it. */
export function isOffered({ state }: Pick<AttachCandidate, 'state'>): boolean {
  return state !== 'held';
}

function stateRefusal(state: AttachCandidate['state']): string | undefined {
  if (state === 'draft') return 'is a draft; sign and verify it first';
  if (state === 'verified') return 'is on no share yet; offer it to hosts first';
  if (state === 'withdrawn') return 'is withdrawn';
  return undefined;
}

/** The part of the rule that is about the signature alone; before an offer nothing else is known. */
export function signatureRefusal(signature: SignedBy | undefined, at: number): string | undefined {
  if (!signature) return 'is not signed; sign it first';
  if (at < signature.validFrom)
    return `has a certificate that is not valid before ${dayOf(signature.validFrom)}; sign it again`;
  if (at > signature.validTo)
    return `has a certificate that runs out on ${dayOf(signature.validTo)}; sign it again`;
  if (!signature.isTrusted) return 'is signed with a certificate that these hosts do not trust';
  return undefined;
}
