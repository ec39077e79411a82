/** Where computer accounts go, and who makes them there. */
import { Select } from 'antd';
import { Link } from 'react-router';
import { directoryApi } from '../../api/directory.ts';
import { Field } from '../../parts/field.tsx';
import { UnitPicker } from '../../parts/unit-picker.tsx';
import type { PoolForm } from './pool-form.ts';

const OWN = '';

export function DirectoryFields({ form: { draft, set, fault } }: { form: PoolForm }) {
  const { data: accounts = [] } = directoryApi.useAccountsQuery({});
  return (
    <div className="fields">
      <Field
        label="Organisational unit"
        fault={fault('ou')}
        hint="chosen, or pasted as a distinguished name in any notation"
        wide
      >
        <UnitPicker value={draft.ou} onChange={(ou) => set({ ou })} takesText />
      </Field>
      <Field
        label="Joined by"
        fault={fault('joinAccount')}
        wide
        hint={<Link to="/pools/directory">make an account just for a unit</Link>}
      >
        <Select
          aria-label="Joined by"
          value={draft.joinAccount ?? OWN}
          onChange={(name) => set({ joinAccount: name === OWN ? null : name })}
          options={[
            { value: OWN, label: 'Vat Line’s own account, which may do everything' },
            ...accounts.map((account) => ({
              value: account.name,
              label: `${account.name}${account.isKnown ? '' : ', its password is not known here'}${account.isLocked ? ', locked' : ''}`,
            })),
          ]}
        />
      </Field>
    </div>
  );
}
