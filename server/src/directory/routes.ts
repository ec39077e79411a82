/** The directory over HTTP: units as a tree, join accounts, and who may do what where. */
import { randomBytes } from 'node:crypto';
import { directoryEndpoints, type Unit } from '@vatline/contract/directory';
import {
  below,
  isWithin,
  nameKey,
  parentOf,
  readDistinguishedName,
  writeDistinguishedName,
  type DistinguishedName,
} from '@vatline/core/directory/distinguished-name';
import { rightsIn, unitRights, type RightGiven } from '@vatline/core/directory/rights';
import { must } from '@vatline/core/result';
import type { UnitReport } from '../estate/driver/directory.ts';
import { EstateError } from '../estate/driver/operations.ts';
import { DONE } from '../platform/change.ts';
import { fromJson } from '../platform/database.ts';
import type { Door } from '../platform/door.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid, notFound } from '../platform/problem.ts';
import type { JoinAccounts } from './join-accounts.ts';
import { directoryNote } from './note.ts';

/** 144 bits, of which nobody has to know a single one. */
const PASSWORD_BYTES = 18;

export function directoryRoutes(door: Door, parts: Parts, known: JoinAccounts): void {
  const { directory } = parts.estate;

  door.serve(directoryEndpoints.units, async () =>
    presentUnits(await directory.units(), await directory.rights()),
  );

  door.serve(directoryEndpoints.makeUnit, async ({ body: { parent, name } }) => {
    const above = await unitIn(parts, parent === '' ? directory.root : parent, 'parent');
    const made = below('OU', name, above);
    const taken = (await directory.units()).some((unit) => keyOf(unit.dn) === nameKey(made));
    if (taken) throw invalid([{ path: 'name', message: `there is a unit ${name} there already` }]);
    const dn = writeDistinguishedName(made);
    await asked('name', () => directory.createUnit(newId('unit'), dn));
    await directoryNote(parts, `The unit ${dn} was made`);
    return { dn };
  });

  door.serve(directoryEndpoints.accounts, async () => {
    const names = await known.known();
    const pools = await poolsByAccount(parts);
    return (await directory.accounts()).map((account) => ({
      ...account,
      isKnown: names.has(account.name),
      pools: pools.get(account.name) ?? [],
    }));
  });

  door.serve(directoryEndpoints.makeAccount, async ({ body: { name, unit, rightsOn } }) => {
    const place = writeDistinguishedName(await unitIn(parts, unit, 'unit'));
    const on = rightsOn === null ? null : writeDistinguishedName(await unitIn(parts, rightsOn, 'rightsOn'));
    const password = randomBytes(PASSWORD_BYTES).toString('base64url');
    await asked('name', () => directory.createAccount(newId('account'), name, place, password));
    await known.keep({ account: name, password });
    if (on !== null)
      for (const right of unitRights)
        await asked('rightsOn', () =>
          directory.setRight(newId('right'), { unit: on, account: name, right }, true),
        );
    const may = on === null ? '' : `; it may create and delete computers in ${on}`;
    await directoryNote(parts, `The account ${name} was made${may}`);
    return DONE;
  });

  door.serve(directoryEndpoints.givePassword, async ({ params: { name }, body: { password } }) => {
    if (!(await directory.accounts()).some((account) => account.name === name))
      throw notFound(`account ${name} in the directory`);
    await asked('password', () => directory.checkPassword({ account: name, password }));
    await known.keep({ account: name, password });
    await directoryNote(parts, `Vat Line was told the password of ${name}`);
    return DONE;
  });

  door.serve(directoryEndpoints.setRight, async ({ body: { isGiven, ...given } }) => {
    const unit = writeDistinguishedName(await unitIn(parts, given.unit, 'unit'));
    if (!(await directory.accounts()).some((account) => account.name === given.account))
      throw invalid([{ path: 'account', message: `the directory has no account ${given.account}` }]);
    await asked('unit', () => directory.setRight(newId('right'), { ...given, unit }, isGiven));
    await directoryNote(
      parts,
      `${given.account} may ${isGiven ? '' : 'no longer '}${given.right} in ${unit}`,
    );
    return DONE;
  });
}

/** What the directory refuses is a fault at the field that was asked about. */
async function asked<T>(path: string, call: () => Promise<T>): Promise<T> {
  try {
    return await call();
  } catch (error) {
    if (!(error instanceof EstateError)) throw error;
    if (error.kind === 'conflict') throw conflict(error.message, path);
    throw invalid([{ path, message: error.message }]);
  }
}

/** A unit in whatever notation, as the directory writes it; the root as well. Throws a fault at its field. */
async function unitIn({ estate }: Parts, dn: string, path: string): Promise<DistinguishedName> {
  const name = readDistinguishedName(dn);
  if (!name.ok) throw invalid([{ path, message: name.error[0]?.message ?? 'is no distinguished name' }]);
  const all = [estate.directory.root, ...(await estate.directory.units()).map((unit) => unit.dn)];
  const found = all.find((one) => keyOf(one) === nameKey(name.value));
  if (found === undefined) throw invalid([{ path, message: `the directory has no unit ${dn}` }]);
  return must(readDistinguishedName(found));
}

function keyOf(dn: string): string {
  const name = readDistinguishedName(dn);
  return name.ok ? nameKey(name.value) : dn;
}

/** Units in the order of a tree: each followed by those below it. */
function presentUnits(units: readonly UnitReport[], rights: readonly RightGiven[]): Unit[] {
  const accounts = [...new Set(rights.map((one) => one.account))].sort();
  const named = units.map((unit) => ({ unit, name: must(readDistinguishedName(unit.dn)) }));
  const known = new Map(named.map(({ unit, name }) => [nameKey(name), unit.dn]));
  return named
    .map(({ unit, name }) => {
      const above = parentOf(name);
      const within = named.filter((other) => isWithin(other.name, name));
      return {
        ...unit,
        parent: (above && known.get(nameKey(above))) ?? null,
        computersBelow: within.reduce((sum, other) => sum + other.unit.computers, 0),
        rights: accounts.flatMap((account) =>
          rightsIn(unit.dn, account, rights).map((held) => ({ account, ...held })),
        ),
        order: name.map((level) => level.map((part) => part.value).join('+')).reverse(),
      };
    })
    .sort((a, b) => compareTexts(a.order, b.order))
    .map(({ order: _order, ...unit }) => unit);
}

function compareTexts(a: readonly string[], b: readonly string[]): number {
  const at = a.findIndex((text, i) => text !== b[i]);
  if (at < 0) return a.length - b.length;
  return (a[at] ?? '').localeCompare(b[at] ?? '', 'en');
}

async function poolsByAccount({ db }: Parts): Promise<ReadonlyMap<string, string[]>> {
  const pools = await db.selectFrom('pool').select(['name', 'settings_json']).orderBy('name').execute();
  const found = new Map<string, string[]>();
  for (const { name, settings_json } of pools) {
    const { joinAccount } = fromJson<{ joinAccount: string | null }>(settings_json);
    if (joinAccount !== null) found.set(joinAccount, [...(found.get(joinAccount) ?? []), name]);
  }
  return found;
}
