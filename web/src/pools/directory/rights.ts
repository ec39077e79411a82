import type { Unit } from '@vatline/contract/directory';
import { unitRights } from '@vatline/core/directory/rights';

/** Accounts that hold all rights for joining in a unit. */
export function accountsWithBoth({ rights }: Unit): string[] {
  const held = (account: string) =>
    new Set(rights.filter((one) => one.account === account).map((one) => one.right));
  return [...new Set(rights.map((right) => right.account))].filter((account) =>
    unitRights.every((right) => held(account).has(right)),
  );
}
