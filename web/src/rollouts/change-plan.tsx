/** Changing the plan of a rollout while it runs: what it would come to is said before, with a reason it is done. */
import { Button, Input, Modal } from 'antd';
import { useDeferredValue, useState } from 'react';
import type { Binding } from '@vatline/core/rollout/admission';
import type { Plan, Rollout } from '@vatline/contract/rollout';
import { faultAt, problemOf } from '../api/problem.ts';
import { rolloutsApi } from '../api/rollouts.ts';
import { Field, ProblemNote } from '../parts/field.tsx';
import { nearDay, plural, time } from '../parts/format.ts';
import { useEstateTime } from '../shell/clock.ts';
import { PaceFields, planFieldPaths } from './plan-fields.tsx';

interface Props {
  readonly rollout: Rollout;
  /** What the form begins with; the plan as it is where nothing was changed before. */
  readonly first?: Plan;
  close(): void;
}

export function ChangePlan({ rollout, first = rollout.plan, close }: Props) {
  // As it was when the form was opened: what somebody else changes meanwhile is refused, and said.
  const [basedOn] = useState(rollout.revision);
  const [plan, setPlan] = useState<Plan>(first);
  const [why, setWhy] = useState('');
  const [change, changing] = rolloutsApi.useChangePlanMutation();
  const asked = useDeferredValue(plan);
  const params = { id: rollout.id };
  const { currentData: preview, error } = rolloutsApi.usePlanPreviewQuery({ params, body: asked });
  const [wrong, refused] = [problemOf(error), problemOf(changing.error)];
  const press = async () => {
    const result = await change({ params, body: { plan, why, basedOn } });
    if (!result.error) close();
  };
  return (
    <Modal
      open
      title={`Change how ${rollout.pool} is rolled out`}
      width={520}
      onCancel={close}
      footer={[
        <Button key="leave" onClick={close}>
          Leave it
        </Button>,
        <Button
          key="change"
          type="primary"
          loading={changing.isLoading}
          disabled={error !== undefined || preview?.says.length === 0}
          onClick={() => void press()}
        >
          Go on like this
        </Button>,
      ]}
    >
      <Outcome rollout={rollout} preview={error ? undefined : preview} />
      <ProblemNote problem={wrong} shown={planFieldPaths} />
      <PaceFields
        plan={plan}
        hosts={rollout.hosts}
        onChange={setPlan}
        fault={(path) => faultAt(wrong, path)}
      />
      <Field label="Why" fault={faultAt(refused, 'why')} hint="stands in the record beside the change">
        <Input
          aria-label="Why"
          maxLength={500}
          value={why}
          onChange={(event) => setWhy(event.target.value)}
        />
      </Field>
      <ProblemNote problem={refused} shown={['why']} />
    </Modal>
  );
}

interface Preview {
  readonly says: readonly string[];
  readonly finish: { readonly p90: number | null };
  readonly minSeatsLeft: { readonly p10: number };
  readonly binding: Binding | null;
}

/** By the names of the fields. */
const held: Record<Binding, string> = {
  window: 'the window',
  batch: 'hosts at a time',
  'max unavailable': 'the most that may be out of service',
  'shared limit': 'what others take as well',
  seats: 'the seats to be kept',
};

interface OutcomeProps {
  readonly rollout: Pick<Rollout, 'expectedAt'>;
  /** Undefined while it is worked out. */
  readonly preview: Preview | undefined;
}

/** When what is left would be done by another plan, beside how it is. */
export function Outcome({ rollout, preview }: OutcomeProps) {
  const { now, zone } = useEstateTime();
  if (!preview) return <p className="quiet">Working out what is left</p>;
  const when = (at: number | null) =>
    at === null ? 'never' : `by ${time(at, zone)} ${nearDay(at, now, zone)} (9 in 10)`;
  const seats = preview.minSeatsLeft.p10;
  return (
    <p role="status">
      <b>What is left is done {when(preview.finish.p90)}</b>
      {seats < 0 && <span className="trouble">, {plural(-seats, 'seat')} short at the worst moment</span>}
      {preview.says.length > 0 &&
        rollout.expectedAt !== null &&
        `; as it is, ${when(rollout.expectedAt)}`}.{' '}
      {preview.binding && <span className="quiet">Held back most by {held[preview.binding]}.</span>}
    </p>
  );
}
