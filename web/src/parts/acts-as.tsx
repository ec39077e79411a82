/** The role in which the person at the screen decides; the server keeps it. */
import { Select } from 'antd';
import { roles } from '@vatline/core/roles';
import { callerApi } from '../api/caller.ts';

export function ActsAs({ note }: { readonly note: string }) {
  const { data: caller } = callerApi.useCallerQuery({});
  const [actAs] = callerApi.useActAsMutation();
  return (
    <div className="row" style={{ margin: '8px 0' }}>
      <span className="quiet">You act as</span>
      <Select
        size="small"
        aria-label="You act as"
        value={caller?.role ?? null}
        style={{ width: 110 }}
        options={roles.map((value) => ({ value, label: value }))}
        onChange={(role) => role && void actAs({ body: { role } })}
      />
      <span className="quiet">{note}</span>
    </div>
  );
}
