/** One image version for all pools that run another: which those are, and the rings to take them through. */
import { Button, Select } from 'antd';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { BlendUse } from '@vatline/contract/blends';
import type { Blend } from '@vatline/contract/pool/blend';
import { canBeRolledOut } from '@vatline/core/image/version-state';
import { imagesApi } from '../../api/images.ts';
import { DyeChip } from '../../parts/dye-chip.tsx';
import { Field } from '../../parts/field.tsx';
import { plural } from '../../parts/format.ts';

interface Props {
  readonly all: readonly BlendUse[];
  readonly from: Blend | null;
  readonly lineId: string;
}

export function Everywhere({ all, from, lineId }: Props) {
  const navigate = useNavigate();
  const { data: lines } = imagesApi.useLinesQuery({});
  const [chosen, setChosen] = useState<string | undefined>();
  if (!from) return null;
  const line = lines?.find((one) => one.id === lineId);
  const others = line?.versions.filter(
    (version) => canBeRolledOut(version.state) && version.id !== from.imageVersionId,
  );
  const to = chosen ?? others?.[0]?.id;
  const pools = all.flatMap(({ poolId, pool, running }) => {
    const hosts = running
      .filter(({ blend }) => blend.imageVersionId === from.imageVersionId)
      .reduce((sum, row) => sum + row.hosts, 0);
    return hosts > 0 ? [{ poolId, pool, hosts }] : [];
  });
  const hosts = pools.reduce((sum, row) => sum + row.hosts, 0);
  const changed = all
    .filter(({ poolId }) => pools.some((row) => row.poolId === poolId))
    .flatMap(({ running }) => running)
    .filter(({ blend }) => blend.imageVersionId !== to)
    .reduce((sum, row) => sum + row.hosts, 0);
  const address = `/rollouts/rings/new?pools=${pools.map((row) => row.poolId).join(',')}&to=${to ?? ''}`;
  return (
    <>
      <h2>
        Everywhere that runs {from.line} {from.imageNumber}
      </h2>
      {pools.map((row) => (
        <div key={row.poolId} className="spread">
          <span className="mono">{row.pool}</span> <span>{plural(row.hosts, 'host')}</span>
        </div>
      ))}
      {others && others.length > 0 && to !== undefined ? (
        <>
          <Field label="is to run">
            <Select
              aria-label="is to run"
              value={to}
              onChange={setChosen}
              options={others.map(({ id, dye, number, state }) => ({
                value: id,
                label: <DyeChip name={dye} number={number} note={state} />,
              }))}
            />
          </Field>
          <Button block onClick={() => void navigate(address)}>
            Plan it for {plural(pools.length, 'pool')}, {plural(hosts, 'host')}
          </Button>
          {changed > hosts && (
            <p className="quiet small">
              The rings take these pools whole: {plural(changed - hosts, 'host')} on yet another version{' '}
              {changed - hosts === 1 ? 'changes' : 'change'} as well.
            </p>
          )}
        </>
      ) : (
        <p className="quiet">There is no other version of {from.line} that hosts could be taken to.</p>
      )}
    </>
  );
}
