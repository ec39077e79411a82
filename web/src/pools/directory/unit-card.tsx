/** One unit: its name in full, the rights in it, another unit below it, an account just for it. */
import { Button, Checkbox, Input } from 'antd';
import { useState } from 'react';
import type { JoinAccount, Unit } from '@vatline/contract/directory';
import { unitRights, type UnitRight } from '@vatline/core/directory/rights';
import { directoryApi } from '../../api/directory.ts';
import { faultAt, problemOf } from '../../api/problem.ts';
import { Field, ProblemNote } from '../../parts/field.tsx';
import { plural } from '../../parts/format.ts';

interface Props {
  readonly unit: Unit;
  readonly accounts: readonly JoinAccount[];
}

export function UnitCard({ unit, accounts }: Props) {
  return (
    <>
      <h2>{unit.name}</h2>
      <p className="mono unit-dn">{unit.dn}</p>
      <div className="spread">
        <span>{plural(unit.computersBelow, 'computer')} in it and below</span>
        <Button size="small" onClick={() => void navigator.clipboard.writeText(unit.dn)}>
          Copy the name
        </Button>
      </div>
      <Rights unit={unit} accounts={accounts} />
      <NewAccount unit={unit} />
      <NewUnit unit={unit} />
    </>
  );
}

function Rights({ unit, accounts }: Props) {
  const [set, { error }] = directoryApi.useSetRightMutation();
  if (accounts.length === 0) return null;
  return (
    <>
      <h2>Who may do what here</h2>
      <table className="table">
        <thead>
          <tr>
            <th>Account</th>
            {unitRights.map((right) => (
              <th key={right}>{right}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {accounts.map(({ name }) => (
            <tr key={name}>
              <td>{name}</td>
              {unitRights.map((right) => (
                <td key={right}>
                  <RightBox
                    unit={unit}
                    account={name}
                    right={right}
                    give={(isGiven) => void set({ body: { unit: unit.dn, account: name, right, isGiven } })}
                  />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <ProblemNote problem={problemOf(error)} />
    </>
  );
}

interface Box {
  readonly unit: Unit;
  readonly account: string;
  readonly right: UnitRight;
  give(isGiven: boolean): void;
}

/** A right that was given on a unit above is taken there and nowhere else. */
function RightBox({ unit, account, right, give }: Box) {
  const held = unit.rights.find((one) => one.account === account && one.right === right);
  const isFromAbove = held !== undefined && held.givenOn !== unit.dn;
  return (
    <Checkbox
      aria-label={`${account} may ${right}`}
      checked={held !== undefined}
      disabled={isFromAbove}
      onChange={(event) => give(event.target.checked)}
    >
      {isFromAbove && <span className="quiet">from above</span>}
    </Checkbox>
  );
}

function NewAccount({ unit }: { unit: Unit }) {
  const [name, setName] = useState('');
  const [make, making] = directoryApi.useMakeAccountMutation();
  const problem = problemOf(making.error);
  const press = async () => {
    const made = await make({ body: { name, unit: unit.dn, rightsOn: unit.dn } });
    if (made.data) setName('');
  };
  return (
    <>
      <h2>An account just for joining here</h2>
      <p className="quiet">
        It may create and delete computers in {unit.name} and below, and nothing else. Its password is made
        here, kept encrypted and shown to nobody.
      </p>
      <div className="row named">
        <Field label="Name of the account" fault={faultAt(problem, 'name')}>
          <Input
            value={name}
            placeholder="such as join-records"
            onChange={(event) => setName(event.target.value)}
          />
        </Field>
        <Button loading={making.isLoading} onClick={() => void press()}>
          Make the account
        </Button>
      </div>
      <ProblemNote problem={problem} shown={['name']} />
    </>
  );
}

function NewUnit({ unit }: { unit: Unit }) {
  const [name, setName] = useState('');
  const [make, making] = directoryApi.useMakeUnitMutation();
  const problem = problemOf(making.error);
  const press = async () => {
    const made = await make({ body: { parent: unit.dn, name } });
    if (made.data) setName('');
  };
  return (
    <>
      <h2>A unit below it</h2>
      <div className="row named">
        <Field label="Name of the unit" fault={faultAt(problem, 'name')}>
          <Input value={name} onChange={(event) => setName(event.target.value)} />
        </Field>
        <Button loading={making.isLoading} onClick={() => void press()}>
          Make the unit
        </Button>
      </div>
      <ProblemNote problem={problem} shown={['name']} />
    </>
  );
}
