/** The rack of the station: its pools, and making another. */
import { Button } from 'antd';
import { useNavigate } from 'react-router';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import { poolsApi } from '../api/pools.ts';
import { DyeChip } from '../parts/dye-chip.tsx';
import { plural } from '../parts/format.ts';

export function usePoolRack() {
  const navigate = useNavigate();
  const { data: pools, isFetching } = poolsApi.usePoolsQuery({});
  const items = (pools ?? []).map((pool) => ({
    to: `/pools/${pool.id}`,
    title: pool.name,
    mono: true,
    sub: <RackNote pool={pool} />,
  }));
  return {
    pools,
    isFetching,
    items,
    action: <Button onClick={() => void navigate('/pools/new')}>Make a pool</Button>,
  };
}

function RackNote({ pool }: { pool: PoolSummary }) {
  return (
    <>
      {pool.blend && <DyeChip name={pool.blend.dye} number={pool.blend.imageNumber} />}
      <span>{plural(pool.hosts, 'host')}</span>
    </>
  );
}
