/** Accounts that computers are joined with: where each may do so, for which pools, and whether it can be used. */
import { Button, Input } from 'antd';
import { useState } from 'react';
import type { JoinAccount, Unit } from '@vatline/contract/directory';
import { directoryApi } from '../../api/directory.ts';
import { faultAt, problemOf } from '../../api/problem.ts';
import { Field, ProblemNote } from '../../parts/field.tsx';
import { accountsWithBoth } from './rights.ts';

interface Props {
  readonly accounts: readonly JoinAccount[];
  readonly units: readonly Unit[];
}

export function JoinAccounts({ accounts, units }: Props) {
  const [giving, setGiving] = useState<string>();
  return (
    <>
      <h2 className="section-title">Accounts that join</h2>
      {accounts.length === 0 && (
        <p className="quiet">There is none yet; choose a unit, and make one just for it.</p>
      )}
      {accounts.length > 0 && (
        <table className="table">
          <thead>
            <tr>
              <th>Account</th>
              <th>May join in</th>
              <th>Pools</th>
              <th>Can be used</th>
            </tr>
          </thead>
          <tbody>
            {accounts.map((account) => (
              <tr key={account.name}>
                <td>{account.name}</td>
                <td>{unitsOf(account, units).join(', ') || <span className="attention">nowhere</span>}</td>
                <td>{account.pools.join(', ') || <span className="quiet">none</span>}</td>
                <td>
                  {account.isLocked ? (
                    <span className="trouble">locked in the directory</span>
                  ) : account.isKnown ? (
                    'yes'
                  ) : (
                    <Button size="small" onClick={() => setGiving(account.name)}>
                      Tell its password
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {giving !== undefined && <Password key={giving} account={giving} done={() => setGiving(undefined)} />}
    </>
  );
}

function unitsOf({ name }: JoinAccount, units: readonly Unit[]): string[] {
  return units.filter((unit) => accountsWithBoth(unit).includes(name)).map((unit) => unit.name);
}

function Password({ account, done }: { account: string; done: () => void }) {
  const [password, setPassword] = useState('');
  const [give, giving] = directoryApi.useGivePasswordMutation();
  const problem = problemOf(giving.error);
  const press = async () => {
    const told = await give({ params: { name: account }, body: { password } });
    if (told.data) done();
  };
  return (
    <div className="row named">
      <Field label={`Password of ${account}`} fault={faultAt(problem, 'password')}>
        <Input.Password value={password} onChange={(event) => setPassword(event.target.value)} />
      </Field>
      <Button loading={giving.isLoading} onClick={() => void press()}>
        Keep it
      </Button>
      <ProblemNote problem={problem} shown={['password']} />
    </div>
  );
}
