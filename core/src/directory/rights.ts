/** What a join account may do in a unit: rights that are given on a unit hold in all units below it. */
import { isWithin, readDistinguishedName } from './distinguished-name.ts';

export const unitRights = ['create computers', 'delete computers'] as const;
export type UnitRight = (typeof unitRights)[number];

export interface RightGiven {
  readonly unit: string;
  readonly account: string;
  readonly right: UnitRight;
}

/** Where a right that holds was given: on the unit itself or on one above it. */
export interface RightHeld {
  readonly right: UnitRight;
  readonly givenOn: string;
}

/** The rights that an account has in a unit. */
export function rightsIn(unit: string, account: string, given: readonly RightGiven[]): RightHeld[] {
  const name = readDistinguishedName(unit);
  if (!name.ok) return [];
  return unitRights.flatMap((right) => {
    const held = given.find((one) => {
      const root = readDistinguishedName(one.unit);
      return one.right === right && one.account === account && root.ok && isWithin(name.value, root.value);
    });
    return held ? [{ right, givenOn: held.unit }] : [];
  });
}

/** Which of the two are missing for making hosts in a unit and taking them away again. */
export function missingRights(held: readonly RightHeld[]): UnitRight[] {
  return unitRights.filter((right) => !held.some((one) => one.right === right));
}
