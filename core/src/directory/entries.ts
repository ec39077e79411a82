/**
 * Entries of a directory as LDIF and back: units, computers, people and groups, in the object
 * classes that directories commonly give them. Written are those of RFC 4519 and RFC 4524, which
 * every directory knows; read are the usual ones of others as well.
 */
import {
  isWithin,
  nameKey,
  readDistinguishedName,
  writeDistinguishedName,
  type DistinguishedName,
} from './distinguished-name.ts';
import type { LdifFault, LdifRecord, LdifValue } from './ldif.ts';
import type { Result } from '../result.ts';

export interface UnitEntry {
  readonly dn: string;
  readonly name: string;
}

export interface ComputerEntry {
  readonly name: string;
  /** Distinguished name of the unit that it lies in. */
  readonly unit: string;
}

export interface PersonEntry {
  readonly account: string;
  readonly name: string;
  readonly branch: string;
  readonly role: string;
}

export interface GroupEntry {
  readonly name: string;
  /** Accounts. */
  readonly people: readonly string[];
  /** Names of groups in it. */
  readonly groups: readonly string[];
}

/** What a directory holds that matters to hosts and those who use them. */
export interface DirectoryEntries {
  readonly units: readonly UnitEntry[];
  readonly computers: readonly ComputerEntry[];
  readonly people: readonly PersonEntry[];
  readonly groups: readonly GroupEntry[];
  /** Records of other kinds, which were passed over. */
  readonly others: number;
}

type Written = Omit<LdifRecord, 'line'>;

/** The root and units, those above before those below, so that each finds the one above it. */
export function unitRecords(root: string, units: readonly UnitEntry[]): Written[] {
  const top = readDistinguishedName(root);
  const component = top.ok ? (top.value[0]?.[0]?.value ?? '') : '';
  const depth = ({ dn }: UnitEntry) => {
    const name = readDistinguishedName(dn);
    return name.ok ? name.value.length : 0;
  };
  return [
    {
      dn: root,
      attributes: [
        ['objectClass', 'top'],
        ['objectClass', 'dcObject'],
        ['objectClass', 'organization'],
        ['dc', component],
        ['o', component],
      ],
    },
    ...[...units]
      .sort((a, b) => depth(a) - depth(b))
      .map(({ dn, name }): Written => ({
        dn,
        attributes: [
          ['objectClass', 'top'],
          ['objectClass', 'organizationalUnit'],
          ['ou', name],
        ],
      })),
  ];
}

/** A `device` each, the class of RFC 4519 that every directory has. */
export function computerRecords(computers: readonly ComputerEntry[]): Written[] {
  return computers.map(({ name, unit }) => ({
    dn: `CN=${name},${unit}`,
    attributes: [
      ['objectClass', 'top'],
      ['objectClass', 'device'],
      ['cn', name],
    ],
  }));
}

const unitClasses = ['organizationalunit'];
const computerClasses = ['computer', 'device'];
const personClasses = ['person', 'inetorgperson', 'organizationalperson', 'user'];
const groupClasses = ['group', 'groupofnames', 'groupofuniquenames'];

/** Sorts records by what they are. Errors, each at the line of its record: a name that cannot be read, one outside of the root, a member that is no name. */
export function entriesOf(
  records: readonly LdifRecord[],
  root: string,
): Result<DirectoryEntries, readonly LdifFault[]> {
  const faults: LdifFault[] = [];
  const top = readDistinguishedName(root);
  const read = records.flatMap((record) => {
    const dn = readDistinguishedName(record.dn);
    if (!dn.ok)
      faults.push({ line: record.line, path: 'dn', message: dn.error[0]?.message ?? 'cannot be read' });
    else if (top.ok && !isWithin(dn.value, top.value))
      faults.push({
        line: record.line,
        path: 'dn',
        message: `lies outside of the directory, whose root is ${root}`,
      });
    else
      return [
        { record, name: dn.value, classes: valuesOf(record, 'objectclass').map((one) => one.toLowerCase()) },
      ];
    return [];
  });
  const is = (classes: readonly string[], of: readonly string[]) => of.some((one) => classes.includes(one));
  const sorted = read.map((one) => ({
    ...one,
    // A computer is a person as well in some directories.
    kind: is(one.classes, computerClasses)
      ? ('computer' as const)
      : is(one.classes, groupClasses)
        ? ('group' as const)
        : is(one.classes, personClasses)
          ? ('person' as const)
          : is(one.classes, unitClasses)
            ? ('unit' as const)
            : ('other' as const),
  }));
  const of = (kind: (typeof sorted)[number]['kind']) => sorted.filter((one) => one.kind === kind);
  const people = of('person').map(({ record, name }) => ({
    key: nameKey(name),
    person: personOf(record, name),
  }));
  const groups = of('group').map(({ record, name }) => ({
    key: nameKey(name),
    record,
    name: commonName(record, name),
  }));
  const accounts = new Map(people.map(({ key, person }) => [key, person.account]));
  const groupNames = new Map(groups.map(({ key, name }) => [key, name]));
  const entries: DirectoryEntries = {
    units: of('unit').map(({ record, name }) => ({
      dn: writeDistinguishedName(name),
      name: valuesOf(record, 'ou')[0] ?? lastPart(name),
    })),
    computers: of('computer').map(({ record, name }) => ({
      name: commonName(record, name).toUpperCase(),
      unit: writeDistinguishedName(name.slice(1)),
    })),
    people: people.map(({ person }) => person),
    groups: groups.map(({ record, name }) => ({ name, ...membersOf(record, accounts, groupNames, faults) })),
    others: of('other').length,
  };
  return faults.length > 0 ? { ok: false, error: faults.slice(0, 50) } : { ok: true, value: entries };
}

function membersOf(
  record: LdifRecord,
  accounts: ReadonlyMap<string, string>,
  groups: ReadonlyMap<string, string>,
  faults: LdifFault[],
): Pick<GroupEntry, 'people' | 'groups'> {
  const people: string[] = [];
  const inner: string[] = [];
  for (const member of [...valuesOf(record, 'member'), ...valuesOf(record, 'uniquemember')]) {
    const name = readDistinguishedName(member);
    if (!name.ok) {
      faults.push({
        line: record.line,
        path: 'member',
        message: `"${member}" ${name.error[0]?.message ?? ''}`,
      });
      continue;
    }
    const key = nameKey(name.value);
    const account = accounts.get(key);
    const group = groups.get(key);
    // Members that did not come along are nobody here.
    if (account !== undefined) people.push(account);
    else if (group !== undefined) inner.push(group);
  }
  return { people, groups: inner };
}

function personOf(record: LdifRecord, name: DistinguishedName): PersonEntry {
  const first = (...names: string[]) => names.flatMap((one) => valuesOf(record, one))[0];
  const cn = commonName(record, name);
  return {
    account:
      first('uid', 'samaccountname', 'userprincipalname')?.toLowerCase() ??
      cn.toLowerCase().replaceAll(' ', '.'),
    name: first('displayname') ?? cn,
    branch: first('l', 'physicaldeliveryofficename', 'department') ?? '',
    role: first('title', 'employeetype') ?? '',
  };
}

function commonName(record: LdifRecord, name: DistinguishedName): string {
  return valuesOf(record, 'cn')[0] ?? lastPart(name);
}

function lastPart(name: DistinguishedName): string {
  return name[0]?.[0]?.value ?? '';
}

function valuesOf({ attributes }: LdifRecord, wanted: string): string[] {
  return attributes.flatMap(([name, value]: readonly [string, LdifValue]) =>
    name.toLowerCase() === wanted && typeof value === 'string' ? [value] : [],
  );
}
