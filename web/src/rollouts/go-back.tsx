/** Going back: what it would come to is said before, and it can be tried on one host first. */
import { Button, InputNumber, Modal } from 'antd';
import { useDeferredValue, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import type { Rollout } from '@vatline/contract/rollout';
import { faultAt, problemOf } from '../api/problem.ts';
import { rolloutsApi } from '../api/rollouts.ts';
import { DyeChip } from '../parts/dye-chip.tsx';
import { Field, ProblemNote } from '../parts/field.tsx';
import { Finding } from '../parts/finding.tsx';
import { nearDay, plural, relative, time } from '../parts/format.ts';
import { useEstateTime } from '../shell/clock.ts';
import { waysInWords } from './blends/needs-in-words.ts';

interface Props {
  readonly rollout: Rollout;
  close(): void;
}

export function GoBack({ rollout, close }: Props) {
  const navigate = useNavigate();
  const [batch, setBatch] = useState<number | undefined>();
  const [goBack, going] = rolloutsApi.useGoBackMutation();
  const asked = useDeferredValue(batch);
  const params = { id: rollout.id };
  const query = asked === undefined ? {} : { batch: asked };
  const { data, currentData, error } = rolloutsApi.useWayBackQuery({ params, query });
  const press = async () => {
    const { data: begun } = await goBack({ params, body: batch === undefined ? {} : { batch } });
    if (begun) void navigate(`/rollouts/${begun.id}`);
  };
  const wrong = problemOf(error);
  return (
    <Modal
      open
      title={`Go back to ${rollout.from.line} ${rollout.from.imageNumber}`}
      width={520}
      onCancel={close}
      footer={[
        <Button key="leave" onClick={close}>
          Leave it
        </Button>,
        <Button
          key="back"
          type="primary"
          danger
          loading={going.isLoading}
          disabled={currentData?.refusal !== ''}
          onClick={() => void press()}
        >
          {currentData ? `Take ${plural(currentData.hosts, 'host')} back` : 'Take them back'}
        </Button>,
      ]}
    >
      {!currentData && !error && <p className="quiet">Working out the way back</p>}
      {currentData && <Outcome rollout={rollout} way={currentData} />}
      <ProblemNote problem={wrong} shown={['batch']} />
      <Field label="Hosts at a time" fault={faultAt(wrong, 'batch')}>
        <InputNumber
          min={1}
          value={batch ?? data?.batch ?? rollout.plan.batch}
          onChange={(n) => setBatch(n ?? undefined)}
        />
      </Field>
      {currentData && <Rehearsal rollout={rollout} way={currentData} />}
      <ProblemNote problem={problemOf(going.error)} />
    </Modal>
  );
}

type WayBack = NonNullable<ReturnType<typeof rolloutsApi.useWayBackQuery>['currentData']>;

interface PartProps {
  readonly rollout: Rollout;
  readonly way: WayBack;
}

function Outcome({ rollout: { from, to, endedAt, plan }, way }: PartProps) {
  const { now, zone } = useEstateTime();
  if (way.refusal !== '')
    return (
      <Finding tone="trouble" title="There is no way back">
        {way.refusal}
      </Finding>
    );
  const { p90 } = way.finish;
  const seats = way.minSeatsLeft.p10;
  return (
    <>
      <p role="status">
        <b>
          {p90 === null
            ? 'Never all of them'
            : `All back by ${time(p90, zone)} ${nearDay(p90, now, zone)} (9 in 10)`}
        </b>
        {seats < 0 ? (
          <span className="trouble">, {plural(-seats, 'seat')} short at the worst moment.</span>
        ) : (
          `, never fewer than ${plural(seats, 'seat')} free.`
        )}{' '}
        From <DyeChip name={to.dye} number={to.imageNumber} /> to{' '}
        <DyeChip name={from.dye} number={from.imageNumber} />. {waysInWords(way.ways)}
      </p>
      <p className="quiet">
        It begins {endedAt === null ? 'once the hosts at work are finished' : 'at once'}, on closed days too,
        and waits {plan.drainLimitMinutes} min for sessions.
      </p>
      {way.losing > 0 && (
        <Finding tone="attention" title={`${plural(way.losing, 'host')} lose what their people keep on them`}>
          They are somebody’s own and have no disk that stays over being made anew.
        </Finding>
      )}
    </>
  );
}

function Rehearsal({ rollout: { poolId, from }, way: { rehearsed, rehearseOn } }: PartProps) {
  const { now } = useEstateTime();
  if (rehearsed)
    return (
      <p className="quiet">
        Rehearsed on <span className="mono">{rehearsed.host}</span> {relative(rehearsed.at, now)}: back after{' '}
        {Math.round(rehearsed.minutes)} min.
      </p>
    );
  if (rehearseOn === null) return null;
  const to = `/rollouts/new?pool=${poolId}&blend=${from.id}&hosts=${rehearseOn}`;
  return (
    <p>
      <Link to={to} className="in-text">
        Rehearse it on {rehearseOn} first
      </Link>
      <span className="quiet">; how long it takes is measured, and stands here then.</span>
    </p>
  );
}
