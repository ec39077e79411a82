/** The directory of people, groups and computers. */
import type { Group } from '@vatline/core/access/see-as';
import type { RightGiven } from '@vatline/core/directory/rights';
import type { Operation } from './operations.ts';

export interface Person {
  readonly account: string;
  readonly name: string;
  readonly branch: string;
  readonly role: string;
}

/** An account that computers are joined with. */
export interface AccountReport {
  readonly name: string;
  /** The unit it lies in, as a distinguished name. */
  readonly unit: string;
  /** Locked accounts are refused everything. */
  readonly isLocked: boolean;
}

/** Who asks the directory for something. */
export interface Credentials {
  readonly account: string;
  readonly password: string;
}

export interface UnitReport {
  readonly dn: string;
  readonly name: string;
  /** Computers in the unit itself. */
  readonly computers: number;
}

export interface Directory {
  readonly root: string;
  units(): Promise<readonly UnitReport[]>;
  /** Makes a unit; one that is there already stays. Throws `not found` without the one above it. */
  createUnit(key: string, dn: string): Promise<void>;
  accounts(): Promise<readonly AccountReport[]>;
  /** Makes an account in a unit; throws `conflict` for a name that is taken. */
  createAccount(key: string, name: string, unit: string, password: string): Promise<void>;
  /** Throws `permission` for a locked account or a wrong password. */
  checkPassword(credentials: Credentials): Promise<void>;
  rights(): Promise<readonly RightGiven[]>;
  /** Gives an account a right in a unit and all below it, or takes it. */
  setRight(key: string, given: RightGiven, isGiven: boolean): Promise<void>;
  /** Names of the computers in a unit itself. */
  computersIn(unit: string): Promise<readonly string[]>;
  groups(): Promise<readonly Group[]>;
  /** People whose name, account or role holds a text, by name and account: so many behind a place, and how many in all. */
  people(
    query: string,
    page: { readonly limit: number; readonly after?: Pick<Person, 'name' | 'account'> },
  ): Promise<{ readonly people: readonly Person[]; readonly total: number }>;
  person(account: string): Promise<Person | undefined>;
  counts(): Promise<{
    readonly users: number;
    readonly groups: number;
    readonly units: number;
    readonly computers: number;
  }>;
  computerNames(): Promise<readonly string[]>;
  /**
   * Makes a computer account in a unit, asked for by an account, or by that of the driver itself.
   * Throws `permission` without the right to, `conflict` for a name that is taken elsewhere.
   */
  createComputer(key: string, name: string, ou: string, by: Credentials | null): Promise<void>;
  deleteComputer(key: string, name: string, by: Credentials | null): Promise<void>;
  /** Sets the computer account anew for a rebuilt host. */
  join(key: string, name: string): Promise<Operation>;
}
