/**
 * The life of a package version: built as a draft, verified once it is signed, live when it is offered
 * to hosts, held or withdrawn when it is not any more. Every change of state goes through `afterDeed`,
 * which routes, jobs and buttons ask alike.
 */
import { ok, refuse, type Result } from '../result.ts';

export const packageStates = ['draft', 'verified', 'live', 'held', 'withdrawn'] as const;
export type PackageState = (typeof packageStates)[number];

/** What is done with one, or found out about it. */
export const packageDeeds = [
  'choose container',
  'sign',
  'found sound',
  'found unsound',
  'offer',
  'hold',
  'withdraw',
] as const;
export type PackageDeed = (typeof packageDeeds)[number];

const given = 'what hosts have got is not changed under them';
const nothingGiven = 'it is a draft, which no host has; there is nothing to hold';

/** The state afterwards, or why not. */
const table: Record<PackageDeed, Record<PackageState, PackageState | { readonly not: string }>> = {
  'choose container': {
    draft: 'draft',
    verified: 'draft',
    live: { not: `it is live; ${given}` },
    held: { not: `it is held; ${given}` },
    withdrawn: { not: `it is withdrawn; ${given}` },
  },
  // What is live stays so: hosts have the same container under a newer signature. Anything else has
  // to be verified before it is offered.
  sign: { draft: 'draft', verified: 'draft', live: 'live', held: 'draft', withdrawn: 'draft' },
  'found sound': {
    draft: 'verified',
    verified: 'verified',
    live: 'live',
    held: 'held',
    withdrawn: 'withdrawn',
  },
  'found unsound': {
    draft: 'draft',
    verified: 'draft',
    live: 'live',
    held: 'held',
    withdrawn: 'withdrawn',
  },
  offer: {
    draft: { not: 'it has not been verified; sign it and verify it first' },
    verified: 'live',
    live: 'live',
    held: 'live',
    withdrawn: { not: 'it is withdrawn; build and verify another version' },
  },
  hold: {
    draft: { not: nothingGiven },
    verified: 'held',
    live: 'held',
    held: 'held',
    withdrawn: 'held',
  },
  withdraw: {
    draft: { not: nothingGiven },
    verified: 'withdrawn',
    live: 'withdrawn',
    held: 'withdrawn',
    withdrawn: 'withdrawn',
  },
};

/** The state of a version after a deed, or the reason why it cannot be done, as a sentence without its capital. */
export function afterDeed(state: PackageState, deed: PackageDeed): Result<PackageState> {
  const after = table[deed][state];
  return typeof after === 'string' ? ok(after) : refuse('state', after.not);
}
