/** The Rollouts station: what is under way, and planning what comes. */
import './rollouts.css';
import { Button } from 'antd';
import { Navigate, useNavigate, useParams } from 'react-router';
import { Station } from '../shell/station.tsx';
import { PlanBench } from './plan-bench.tsx';
import { StagedBench } from './rings/staged-bench.tsx';
import { RolloutBench } from './rollout-bench.tsx';
import { useRolloutRack } from './rollout-rack.tsx';

export function RolloutsPage() {
  const { rolloutId, stagedId } = useParams();
  const navigate = useNavigate();
  const items = useRolloutRack(rolloutId);
  const [first] = items ?? [];
  return (
    <Station
      items={items ?? []}
      action={<Button onClick={() => void navigate('/rollouts/new')}>Plan a rollout</Button>}
    >
      {stagedId ? (
        <StagedBench />
      ) : rolloutId === 'new' ? (
        <PlanBench />
      ) : rolloutId ? (
        <RolloutBench key={rolloutId} id={rolloutId} />
      ) : first ? (
        <Navigate to={first.to} replace />
      ) : (
        items && <PlanBench />
      )}
    </Station>
  );
}
