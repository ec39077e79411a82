/** The directory as hosts need it: where their accounts lie, and who may make them there. */
import './directory.css';
import { Button } from 'antd';
import { useSearchParams } from 'react-router';
import { directoryFileEndpoints, type JoinAccount, type Unit } from '@vatline/contract/directory';
import { addressOf } from '../../api/base.ts';
import { directoryApi } from '../../api/directory.ts';
import { problemOf } from '../../api/problem.ts';
import { Station } from '../../shell/station.tsx';
import { ProblemNote } from '../../parts/field.tsx';
import { count, plural } from '../../parts/format.ts';
import { usePoolRack } from '../pool-rack.tsx';
import { ImportDirectory } from './import-directory.tsx';
import { JoinAccounts } from './join-accounts.tsx';
import { accountsWithBoth } from './rights.ts';
import { UnitCard } from './unit-card.tsx';

export function DirectoryPage() {
  const { items, action } = usePoolRack();
  const { data: units, error } = directoryApi.useUnitsQuery({});
  const { data: accounts = [] } = directoryApi.useAccountsQuery({});
  const [search, setSearch] = useSearchParams();
  const chosen = units?.find((unit) => unit.dn === search.get('unit'));
  return (
    <Station items={items} action={action}>
      <div className="bench-columns directory">
        <section className="work" aria-label="Directory">
          {units && <h1 className="answer">{headline(units, accounts)}</h1>}
          <p className="under-answer">
            Hosts have their accounts in units. An account that may create and delete computers in one unit,
            and nothing else, does no harm if its password is lost.
          </p>
          <ProblemNote problem={problemOf(error)} />
          {units && (
            <UnitTable units={units} chosen={chosen} choose={(unit) => setSearch({ unit: unit.dn })} />
          )}
          <JoinAccounts accounts={accounts} units={units ?? []} />
          <div className="row" style={{ marginTop: 14 }}>
            <Button href={`/api/v1${addressOf(directoryFileEndpoints.export)}`}>
              Take units and computers as LDIF
            </Button>
            <ImportDirectory />
          </div>
        </section>
        <aside className="evidence" aria-label="The chosen unit">
          {chosen ? (
            <UnitCard key={chosen.dn} unit={chosen} accounts={accounts} />
          ) : (
            <p className="quiet">
              Choose a unit to see its name in full, who may do what in it, and to make another below it.
            </p>
          )}
        </aside>
      </div>
    </Station>
  );
}

function headline(units: readonly Unit[], accounts: readonly JoinAccount[]): string {
  const computers = units.reduce((sum, unit) => sum + unit.computers, 0);
  const joined = units.filter((unit) => unit.computers > 0);
  const covered = joined.filter((unit) => unit.rights.length > 0);
  const own = joined.length - covered.length;
  if (accounts.length === 0)
    return `${plural(computers, 'computer')} in ${plural(joined.length, 'unit')}, and no account just for joining.`;
  return own === 0
    ? `Each of the ${joined.length} units with computers has an account just for joining.`
    : `${own} of ${plural(joined.length, 'unit')} with computers ${own === 1 ? 'has' : 'have'} no account just for joining.`;
}

interface Table {
  readonly units: readonly Unit[];
  readonly chosen: Unit | undefined;
  choose(unit: Unit): void;
}

/** A tree by indentation: each unit is followed by those below it. */
function UnitTable({ units, chosen, choose }: Table) {
  const depths = depthsOf(units);
  return (
    <table className="table unit-table">
      <thead>
        <tr>
          <th>Unit</th>
          <th className="number">Computers</th>
          <th className="number">With those below</th>
          <th>May create and delete computers</th>
        </tr>
      </thead>
      <tbody>
        {units.map((unit) => (
          <tr key={unit.dn} className={unit.dn === chosen?.dn ? 'chosen' : ''}>
            <td style={{ paddingLeft: 6 + (depths.get(unit.dn) ?? 0) * 18 }}>
              <button
                type="button"
                className="plain-button"
                aria-pressed={unit.dn === chosen?.dn}
                onClick={() => choose(unit)}
              >
                {unit.name}
              </button>
            </td>
            <td className="number">{count(unit.computers)}</td>
            <td className="number">{count(unit.computersBelow)}</td>
            <td>
              {accountsWithBoth(unit).join(', ') || (
                <span className="quiet">only Vat Line’s own account</span>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function depthsOf(units: readonly Unit[]): ReadonlyMap<string, number> {
  const depths = new Map<string, number>();
  for (const { dn, parent } of units) depths.set(dn, parent === null ? 0 : (depths.get(parent) ?? 0) + 1);
  return depths;
}
