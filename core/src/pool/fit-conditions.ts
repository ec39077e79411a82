/** What must hold besides room: the place in the directory, who may make accounts there, and the image. */
import { canBeRolledOut, type VersionState } from '../image/version-state.ts';
import type { UnitRight } from '../directory/rights.ts';

export const conditionWhats = ['unit', 'account', 'rights', 'image', 'agent'] as const;
export type ConditionWhat = (typeof conditionWhats)[number];

/** `warns`: hosts can be made, and somebody should know. */
export const conditionVerdicts = ['holds', 'warns', 'fails'] as const;
export type ConditionVerdict = (typeof conditionVerdicts)[number];

export interface Condition {
  readonly what: ConditionWhat;
  readonly verdict: ConditionVerdict;
  /** A sentence without a full stop. */
  readonly says: string;
}

/** What is known of the choice; parts that are not chosen yet are left out. */
export interface ConditionFacts {
  readonly unit?: { readonly name: string; readonly exists: boolean } | undefined;
  /** The account that joins; null is Vat Line's own, which may do everything everywhere. */
  readonly account?: JoinAccountFacts | null | undefined;
  readonly image?: ImageFacts | undefined;
}

export interface JoinAccountFacts {
  readonly name: string;
  readonly exists: boolean;
  /** Whether Vat Line knows its password. */
  readonly isKnown: boolean;
  readonly isLocked: boolean;
  /** Rights on the unit that it lacks. */
  readonly missing: readonly UnitRight[];
}

export interface ImageFacts {
  readonly number: number;
  readonly state: VersionState;
  readonly isGone: boolean;
  /** Whether the host agent is in it; null where nobody knows, as in one that was made elsewhere. */
  readonly hasAgent: boolean | null;
}

/** Each condition that can be told from what is known. */
export function fitConditions(facts: ConditionFacts): Condition[] {
  return [
    ...(facts.unit ? [unitCondition(facts.unit)] : []),
    ...(facts.account === undefined || !facts.unit?.exists
      ? []
      : accountConditions(facts.account, facts.unit.name)),
    ...(facts.image ? imageConditions(facts.image) : []),
  ];
}

function unitCondition({ name, exists }: NonNullable<ConditionFacts['unit']>): Condition {
  return exists
    ? { what: 'unit', verdict: 'holds', says: `${name} is in the directory` }
    : { what: 'unit', verdict: 'fails', says: `the directory has no unit ${name}` };
}

function accountConditions(account: JoinAccountFacts | null, unit: string): Condition[] {
  if (!account)
    return [
      {
        what: 'account',
        verdict: 'warns',
        says: "joins with Vat Line's own account, which may do everything in the directory",
      },
    ];
  const { name, missing } = account;
  const fails = (says: string): Condition[] => [{ what: 'account', verdict: 'fails', says }];
  if (!account.exists) return fails(`the directory has no account ${name}`);
  if (account.isLocked) return fails(`the account ${name} is locked`);
  if (!account.isKnown) return fails(`Vat Line does not know the password of ${name}`);
  return [
    { what: 'account', verdict: 'holds', says: `joins with ${name}` },
    missing.length === 0
      ? { what: 'rights', verdict: 'holds', says: `${name} may create and delete computers in ${unit}` }
      : { what: 'rights', verdict: 'fails', says: `${name} may not ${missing.join(' nor ')} in ${unit}` },
  ];
}

/** Of the image alone. */
export function imageConditions({ number, state, isGone, hasAgent }: ImageFacts): Condition[] {
  const image: Condition = isGone
    ? { what: 'image', verdict: 'fails', says: `version ${number} was deleted` }
    : !canBeRolledOut(state)
      ? { what: 'image', verdict: 'fails', says: `version ${number} is ${state}` }
      : state === 'approved'
        ? { what: 'image', verdict: 'holds', says: `version ${number} is approved` }
        : { what: 'image', verdict: 'warns', says: `version ${number} is ${state} and not approved` };
  return [image, agentCondition(hasAgent)];
}

function agentCondition(hasAgent: boolean | null): Condition {
  if (hasAgent === null)
    return {
      what: 'agent',
      verdict: 'warns',
      says: 'the image was made elsewhere; nobody knows whether the host agent is in it',
    };
  return hasAgent
    ? { what: 'agent', verdict: 'holds', says: 'the host agent is in the image' }
    : {
        what: 'agent',
        verdict: 'fails',
        says: 'the image has no host agent, so that no host would ever report',
      };
}
