/** The directory of people, groups and computers. */
import type { Group } from '@vatline/core/access/see-as';
import type { Operation } from './operations.ts';

export interface Person {
  readonly account: string;
  readonly name: string;
  readonly branch: string;
  readonly role: string;
}

export interface Directory {
  readonly root: string;
  units(): Promise<readonly { readonly dn: string; readonly name: string; readonly computers: number }[]>;
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
  createComputer(key: string, name: string, ou: string): Promise<void>;
  deleteComputer(key: string, name: string): Promise<void>;
  /** Sets the computer account anew for a rebuilt host. */
  join(key: string, name: string): Promise<Operation>;
}
