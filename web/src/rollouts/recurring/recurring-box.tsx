/** Has the rollout of a pool come again in every window of the plan that is open; and what came of the last. */
import { Button, Select } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router';
import type { Recurring } from '@vatline/contract/recurring';
import type { Plan, RolloutRequest } from '@vatline/contract/rollout';
import { recurringTakes, type RecurringTakes } from '@vatline/core/rollout/recurring';
import { problemOf } from '../../api/problem.ts';
import { rolloutsApi } from '../../api/rollouts.ts';
import { Field, ProblemNote } from '../../parts/field.tsx';
import { Finding } from '../../parts/finding.tsx';
import { capital, moment } from '../../parts/format.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { nextInWords, recurringInWords, takesInWords } from './recurring-in-words.ts';

interface Props {
  readonly pool: { readonly id: string; readonly name: string };
  readonly request: RolloutRequest;
}

export function RecurringBox({ pool, request }: Props) {
  const { data } = rolloutsApi.useRecurringQuery({});
  const [isOpen, setOpen] = useState(false);
  const kept = data?.find(({ poolId }) => poolId === pool.id);
  if (!data) return null;
  return (
    <section aria-label="Coming again">
      <h2>Coming again</h2>
      {kept ? <Kept kept={kept} /> : <p className="quiet">It is rolled out once.</p>}
      {isOpen ? (
        <KeepForm pool={pool} kept={kept} plan={planOf(request)} close={() => setOpen(false)} />
      ) : (
        <Button onClick={() => setOpen(true)}>
          {kept ? 'Come by this plan instead' : 'Come again in every window'}
        </Button>
      )}
    </section>
  );
}

function Kept({ kept }: { readonly kept: Recurring }) {
  const { zone } = useEstateTime();
  const [drop, dropping] = rolloutsApi.useDropRecurringMutation();
  const { last } = kept;
  return (
    <>
      <p>
        <b>{recurringInWords(kept.takes, kept.plan)}</b> {nextInWords(kept, zone)}
      </p>
      {last && (
        <Finding
          tone={last.isRefused ? 'attention' : 'good'}
          title={`${capital(moment(last.at, zone))}: ${last.outcome}`}
        >
          {last.rolloutId && <Link to={`/rollouts/${last.rolloutId}`}>its rollout</Link>}
        </Finding>
      )}
      <ProblemNote problem={problemOf(dropping.error)} />
      <Button
        style={{ marginBottom: 8 }}
        loading={dropping.isLoading}
        onClick={() => void drop({ params: { id: kept.poolId } })}
      >
        Come no more
      </Button>
    </>
  );
}

interface FormProps {
  readonly pool: Props['pool'];
  readonly kept: Recurring | undefined;
  readonly plan: Plan;
  close(): void;
}

function KeepForm({ pool, kept, plan, close }: FormProps) {
  const [takes, setTakes] = useState<RecurringTakes>(kept?.takes ?? 'newest approved');
  // As it was when the form was opened: what somebody else keeps meanwhile is refused, and said.
  const [basedOn] = useState(kept?.revision ?? 0);
  const [keep, keeping] = rolloutsApi.useKeepRecurringMutation();
  const press = async () => {
    const { data } = await keep({ params: { id: pool.id }, body: { takes, plan, basedOn } });
    if (data) close();
  };
  return (
    <>
      <Field label="It brings in every window">
        <Select
          aria-label="It brings in every window"
          value={takes}
          options={recurringTakes.map((value) => ({ value, label: takesInWords[value] }))}
          onChange={setTakes}
        />
      </Field>
      <p className="quiet">
        {recurringInWords(takes, plan)} What it attaches is what the pool attaches then.
      </p>
      <ProblemNote problem={problemOf(keeping.error)} />
      <div className="row">
        <Button type="primary" loading={keeping.isLoading} onClick={() => void press()}>
          Keep it coming
        </Button>
        <Button onClick={close}>Leave it</Button>
      </div>
    </>
  );
}

/** What a request says of windows and pace; what it brings is found out each time. */
function planOf(request: RolloutRequest): Plan {
  const { window, zone, calendarIds, batch, maxUnavailable, drainLimitMinutes, reserve, stop, notice } =
    request;
  return { window, zone, calendarIds, batch, maxUnavailable, drainLimitMinutes, reserve, stop, notice };
}
