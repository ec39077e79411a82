/** Blends: what the hosts of each pool run, ran before, and are to run; and what lies between any two. */
import '../rollouts.css';
import './blends.css';
import { Button } from 'antd';
import { Navigate, useNavigate, useParams } from 'react-router';
import type { BlendUse } from '@vatline/contract/blends';
import { blendsApi } from '../../api/blends.ts';
import { DyeChip } from '../../parts/dye-chip.tsx';
import { Station } from '../../shell/station.tsx';
import { BlendBench } from './blend-bench.tsx';

export function BlendsPage() {
  const { poolId } = useParams();
  const navigate = useNavigate();
  const { data: pools } = blendsApi.useBlendsInUseQuery({});
  const items = (pools ?? []).map((pool) => ({
    to: `/rollouts/blends/${pool.poolId}`,
    title: pool.pool,
    mono: true,
    sub: <RackNote use={pool} />,
  }));
  const open = pools?.find((pool) => pool.poolId === poolId);
  const [first] = pools ?? [];
  return (
    <Station
      items={items}
      action={
        <Button onClick={() => void navigate(`/rollouts/new${poolId ? `?pool=${poolId}` : ''}`)}>
          Plan a rollout
        </Button>
      }
    >
      {open && pools ? (
        <BlendBench key={open.poolId} use={open} all={pools} />
      ) : poolId !== undefined && pools ? (
        <p className="work quiet">There is no such pool any more.</p>
      ) : first ? (
        <Navigate to={`/rollouts/blends/${first.poolId}`} replace />
      ) : (
        pools && (
          <p className="work quiet">
            No pool is there yet. Its first blend comes with its first hosts; make one under Pools.
          </p>
        )
      )}
    </Station>
  );
}

function RackNote({ use: { current, running, hosts } }: { readonly use: BlendUse }) {
  if (!current) return <span>no blend yet</span>;
  const on = running.find(({ blend }) => blend.id === current.id)?.hosts ?? 0;
  return (
    <>
      <DyeChip name={current.dye} number={current.imageNumber} />
      <span>blend {current.number}</span>
      {on < hosts && (
        <span>
          {on} of {hosts}
        </span>
      )}
    </>
  );
}
