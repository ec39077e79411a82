/**
 * Whether hosts can be taken to a blend at an instant, and what somebody should know before. What
 * fails here stops a rollout; the page that shows it and the route that starts one ask the same.
 */
import { attachRefusal, isOffered, type AttachCandidate } from '../../package/attachable.ts';
import { dayOf, validityAt } from '../../container/signature/certificate.ts';
import type { Clash, ClashKind } from '../../package/conflicts.ts';
import { imageConditions, type ConditionVerdict, type ImageFacts } from '../../pool/fit-conditions.ts';
import type { Fault } from '../../result.ts';
import type { Instant } from '../../time/instant.ts';

export interface CheckedPackage extends AttachCandidate {
  readonly id: string;
  /** With its version. */
  readonly name: string;
}

export interface BlendFacts {
  readonly image: ImageFacts;
  /** In the order in which they were chosen. */
  readonly packages: readonly CheckedPackage[];
  readonly clashes: readonly Clash[];
  /** When hosts will attach them. */
  readonly at: Instant;
  /** What ran together before may run together again, whatever is thought of it now. */
  readonly isReturn?: boolean;
  /** Hosts that would be made anew, are somebody's own, and have no disk that stays that person's. */
  readonly losing?: number;
}

export interface BlendCheck {
  readonly verdict: ConditionVerdict;
  /** A sentence without a full stop. */
  readonly says: string;
  /** Why it matters, or what to do; empty where that is plain. */
  readonly advice: string;
  /** What it is about, as a request names it. */
  readonly path: string;
}

/** Of a file that two packages bring one is seen; without what it needs, or beside another version of itself, nothing works. */
const stopping: readonly ClashKind[] = ['dependency', 'two versions'];

const worstFirst: readonly ConditionVerdict[] = ['fails', 'warns', 'holds'];

/** Worst first. */
export function blendChecks(facts: BlendFacts): BlendCheck[] {
  const { image, packages, clashes, at, isReturn = false, losing = 0 } = facts;
  const checks = [
    ...imageConditions(image)
      .filter(({ what }) => !isReturn || what === 'image')
      .map(({ verdict, says }): BlendCheck => ({ verdict, says, advice: '', path: 'imageVersionId' })),
    ...packageChecks(packages, at),
    ...(isReturn ? [] : clashChecks(packages, clashes)),
    ...lossCheck(losing),
  ];
  return worstFirst.flatMap((verdict) => checks.filter((check) => check.verdict === verdict));
}

/** What stops a rollout, each at its field. */
export function blendFaults(facts: BlendFacts): Fault[] {
  return blendChecks(facts).flatMap(({ verdict, says, path }) =>
    verdict === 'fails' ? [{ path, message: says }] : [],
  );
}

function lossCheck(losing: number): BlendCheck[] {
  if (losing === 0) return [];
  const [hosts, are] = losing === 1 ? ['host', 'is'] : ['hosts', 'are'];
  return [
    {
      verdict: 'warns',
      says: `${losing} ${hosts} ${are} made anew and somebody’s own`,
      advice:
        'They have no personal disk: what people keep on them is lost, and no way back brings it again.',
      path: 'poolId',
    },
  ];
}

function packageChecks(packages: readonly CheckedPackage[], at: Instant): BlendCheck[] {
  const found = packages.flatMap((one, i) => packageCheck(one, `packageVersionIds.${i}`, at) ?? []);
  const well = packages.filter((one) => isOffered(one) && attachRefusal(one, at) === undefined).length;
  if (well === 0) return found;
  const says = `${well} of ${packages.length} ${packages.length === 1 ? 'package' : 'packages'} can be attached`;
  return [...found, { verdict: 'holds', says, advice: '', path: 'packageVersionIds' }];
}

function packageCheck(one: CheckedPackage, path: string, at: Instant): BlendCheck | undefined {
  const refusal = attachRefusal(one, at);
  if (refusal !== undefined) return { verdict: 'fails', says: `${one.name} ${refusal}`, advice: '', path };
  if (!isOffered(one))
    return {
      verdict: 'warns',
      says: `${one.name} is held`,
      advice: 'Hosts step over it until it is let go.',
      path,
    };
  if (!one.signature) return undefined;
  const validity = validityAt(one.signature, at);
  if (validity.state !== 'valid' || validity.warning === undefined) return undefined;
  return {
    verdict: 'warns',
    says: `${one.name} has a certificate that runs out on ${dayOf(one.signature.validTo)}`,
    advice: 'Hosts that are made or attached anew after that refuse it; sign it again before.',
    path,
  };
}

function clashChecks(packages: readonly CheckedPackage[], clashes: readonly Clash[]): BlendCheck[] {
  const place = new Map(packages.map(({ id }, i) => [id, i]));
  const nameOf = (id: string) => packages[place.get(id) ?? -1]?.name ?? 'a package';
  return clashes.map(({ kind, what, packages: ids, advice }) => ({
    verdict: stopping.includes(kind) ? 'fails' : 'warns',
    says:
      kind === 'dependency'
        ? `${nameOf(ids[0] ?? '')} needs ${what}`
        : `${ids.map(nameOf).join(' and ')} clash: ${kind} ${what}`,
    advice,
    path: `packageVersionIds.${place.get(ids[0] ?? '') ?? 0}`,
  }));
}
