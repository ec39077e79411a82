/** The Rollouts station: what is under way, and planning what comes. */
import './rollouts.css';
import { Button } from 'antd';
import { Navigate, useNavigate, useParams } from 'react-router';
import type { Rollout } from '@vatline/contract/rollout';
import { rolloutsApi } from '../api/rollouts.ts';
import { useEstateTime } from '../shell/clock.ts';
import { Station } from '../shell/station.tsx';
import { DyeChip } from '../parts/dye-chip.tsx';
import { day, nearDay } from '../parts/format.ts';
import { PlanBench } from './plan-bench.tsx';
import { RolloutBench } from './rollout-bench.tsx';

export function RolloutsPage() {
  const { rolloutId } = useParams();
  const navigate = useNavigate();
  const { data: rollouts } = rolloutsApi.useRolloutsQuery({});
  const open = (rollouts ?? []).filter((row) => row.endedAt === null);
  const ended = (rollouts ?? []).filter((row) => row.endedAt !== null);
  const items = [...open, ...ended].map((row) => ({
    to: `/rollouts/${row.id}`,
    title: row.pool,
    mono: true,
    sub: <RackNote rollout={row} />,
  }));
  const first = open[0] ?? ended[0];
  return (
    <Station
      items={items}
      action={<Button onClick={() => void navigate('/rollouts/new')}>Plan a rollout</Button>}
    >
      {rolloutId === 'new' ? (
        <PlanBench />
      ) : rolloutId ? (
        <RolloutBench key={rolloutId} id={rolloutId} />
      ) : first ? (
        <Navigate to={`/rollouts/${first.id}`} replace />
      ) : (
        rollouts && <PlanBench />
      )}
    </Station>
  );
}

function RackNote({ rollout }: { rollout: Rollout }) {
  const { now, zone } = useEstateTime();
  const when =
    rollout.endedAt !== null
      ? day(rollout.endedAt, zone)
      : rollout.pausedAt !== null
        ? 'paused'
        : rollout.state === 'at work'
          ? 'at work'
          : rollout.nextWindow
            ? nearDay(rollout.nextWindow.start, now, zone)
            : '';
  return (
    <>
      <DyeChip name={rollout.to.dye} number={rollout.to.imageNumber} />
      <span>
        {rollout.done} of {rollout.hosts}
      </span>
      <span>{when}</span>
    </>
  );
}
