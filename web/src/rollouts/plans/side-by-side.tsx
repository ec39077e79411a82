/** Kept plans of a pool side by side, each forecast as things are now. */
import { Button, Popconfirm } from 'antd';
import { Fragment, useCallback, useEffect, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import type { Problem } from '@vatline/contract/endpoint';
import type { KeptPlan } from '@vatline/contract/kept-plan';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import type { ForecastAnswer } from '@vatline/contract/rollout';
import { planFacts } from '@vatline/core/rollout/plan-change';
import { imagesApi } from '../../api/images.ts';
import { keptPlansApi } from '../../api/kept-plans.ts';
import { problemOf } from '../../api/problem.ts';
import { rolloutsApi } from '../../api/rollouts.ts';
import { DyeChip } from '../../parts/dye-chip.tsx';
import { ProblemNote } from '../../parts/field.tsx';
import { capital, moment, plural } from '../../parts/format.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { usePlanForecast } from '../use-forecast.ts';
import { bestInWords } from './side-by-side-words.ts';

interface Props {
  readonly pool: PoolDetail;
  readonly kept: readonly KeptPlan[];
}

export function SideBySide({ pool, kept }: Props) {
  const [answers, setAnswers] = useState<ReadonlyMap<string, ForecastAnswer | undefined>>(new Map());
  const told = useCallback(
    (id: string, answer: ForecastAnswer | undefined) =>
      setAnswers((before) => (before.get(id) === answer ? before : new Map([...before, [id, answer]]))),
    [],
  );
  return (
    <section className="work" aria-label={`Plans for ${pool.name} side by side`}>
      <h1 className="answer">
        {bestInWords(kept.map(({ id, name }) => ({ name, answer: answers.get(id) })))}
      </h1>
      <p className="under-answer">
        Kept plans for <span className="mono">{pool.name}</span>, each forecast as things are now; what is
        another than in the first is strong.
      </p>
      <div
        className="side-by-side-plans"
        style={{ gridTemplateColumns: `repeat(${kept.length}, minmax(0, 1fr))` }}
      >
        {kept.map((plan) => (
          <PlanColumn key={plan.id} pool={pool} plan={plan} first={kept[0] ?? plan} told={told} />
        ))}
      </div>
      <p>
        <Link to={`/rollouts/new?pool=${pool.id}`}>Another plan</Link>
      </p>
    </section>
  );
}

interface ColumnProps {
  readonly pool: PoolDetail;
  readonly plan: KeptPlan;
  /** That the others are held against. */
  readonly first: KeptPlan;
  readonly told: (id: string, answer: ForecastAnswer | undefined) => void;
}

function PlanColumn({ pool, plan, first, told }: ColumnProps) {
  const { id, name, request } = plan;
  const { answer, isWhole, problem } = usePlanForecast(request);
  const known = isWhole ? answer : undefined;
  // What it comes to is known here, and weighed above.
  useEffect(() => told(id, known), [id, known, told]);
  return (
    <section className="plan-column" aria-label={name}>
      <h2>
        <Link to={`/rollouts/new?pool=${pool.id}&plan=${id}`}>{name}</Link>
      </h2>
      {problem ? <Refused problem={problem} /> : <Outcome answer={answer} isWhole={isWhole} />}
      <Facts plan={plan} first={first} />
      <ColumnActions plan={plan} answer={answer} />
    </section>
  );
}

function Refused({ problem }: { readonly problem: Problem }) {
  return (
    <div className="plan-outcome">
      <p className="trouble">It cannot be begun now.</p>
      <ProblemNote problem={problem} />
    </div>
  );
}

interface OutcomeProps {
  readonly answer: ForecastAnswer | undefined;
  readonly isWhole: boolean;
}

function Outcome({ answer, isWhole }: OutcomeProps) {
  const { zone } = useEstateTime();
  if (!answer) return <div className="plan-outcome quiet">Working out the forecast</div>;
  const { finish, minSeatsLeft, windowsUsed, binding } = answer;
  const seats = minSeatsLeft.p10;
  return (
    <div className="plan-outcome" aria-busy={!isWhole}>
      <p className="plan-done">{finish.p90 === null ? 'Never done' : moment(finish.p90, zone)}</p>
      <p className="quiet small">
        {finish.p90 !== null && 'done by then, 9 in 10; '}
        {plural(windowsUsed.p90, 'window')}
      </p>
      <p className={seats < 0 ? 'trouble' : ''}>
        {seats < 0
          ? `${plural(-seats, 'seat')} short at the worst`
          : `never fewer than ${plural(seats, 'seat')} free`}
      </p>
      <p className="quiet small">
        {binding[0] ? `held back most by ${binding[0].constraint}` : 'held back by nothing'}
      </p>
    </div>
  );
}

function Facts({ plan, first }: { readonly plan: KeptPlan; readonly first: KeptPlan }) {
  const { data: lines = [] } = imagesApi.useLinesQuery({});
  const { request } = plan;
  const version = lines.flatMap(({ versions }) => versions).find(({ id }) => id === request.imageVersionId);
  const there = planFacts(first.request);
  const packages = request.packageVersionIds.length;
  return (
    <dl className="plan-facts">
      <dt>Image</dt>
      <dd className={strongIf(request.imageVersionId !== first.request.imageVersionId)}>
        {version ? <DyeChip name={version.dye} number={version.number} /> : 'is gone'}
        {packages > 0 && ` and ${plural(packages, 'package')}`}
      </dd>
      {planFacts(request).map(([what, is], i) => (
        <Fragment key={what}>
          <dt>{capital(what)}</dt>
          <dd className={strongIf(is !== there[i]?.[1])}>{is}</dd>
        </Fragment>
      ))}
    </dl>
  );
}

const strongIf = (isAnother: boolean) => (isAnother ? 'strong' : '');

function ColumnActions({
  plan: { id, name, request },
  answer,
}: {
  readonly plan: KeptPlan;
  readonly answer: ForecastAnswer | undefined;
}) {
  const navigate = useNavigate();
  const [start, starting] = rolloutsApi.useStartRolloutMutation();
  const [drop, dropping] = keptPlansApi.useDropKeptPlanMutation();
  const begin = async () => {
    const { data } = await start({ body: request });
    if (data) void navigate(`/rollouts/${data.id}`);
  };
  return (
    <>
      <Button type="primary" disabled={!answer} loading={starting.isLoading} onClick={() => void begin()}>
        Roll out by {name}
      </Button>{' '}
      <Popconfirm title={`Drop ${name}?`} onConfirm={() => void drop({ params: { id } })}>
        <Button loading={dropping.isLoading}>Drop</Button>
      </Popconfirm>
      <ProblemNote problem={problemOf(starting.error) ?? problemOf(dropping.error)} />
    </>
  );
}
