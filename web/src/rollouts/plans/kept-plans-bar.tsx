/** The plans of a pool that are kept: one to go on with, this one to keep, and all of them side by side. */
import { Button, Input } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router';
import { MOST_KEPT_PLANS, type KeptPlan } from '@vatline/contract/kept-plan';
import type { RolloutRequest } from '@vatline/contract/rollout';
import { keptPlansApi } from '../../api/kept-plans.ts';
import { problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';

interface Props {
  readonly poolId: string;
  readonly kept: readonly KeptPlan[];
  /** The one that is open; none for a plan that is new. */
  readonly open: KeptPlan | undefined;
  readonly request: RolloutRequest;
  /** Whether it is another than what is kept. */
  readonly isChanged: boolean;
  readonly onKept: (id: string) => void;
}

export function KeptPlansBar({ poolId, kept, open, request, isChanged, onKept }: Props) {
  const at = (plan?: string) => `/rollouts/new?pool=${poolId}${plan === undefined ? '' : `&plan=${plan}`}`;
  return (
    <nav className="kept-plans" aria-label="Plans">
      {(kept.length > 0 || open) && (
        <Link className={open ? '' : 'open'} to={at()}>
          new
        </Link>
      )}
      {kept.map(({ id, name }) => (
        <Link key={id} className={id === open?.id ? 'open' : ''} to={at(id)}>
          {name}
        </Link>
      ))}
      {open && isChanged && <KeepAsItIs open={open} request={request} onKept={onKept} />}
      {kept.length < MOST_KEPT_PLANS && <KeepAs request={request} onKept={onKept} />}
      {kept.length > 1 && <Link to={`/rollouts/new?pool=${poolId}&side`}>Side by side</Link>}
    </nav>
  );
}

interface KeepProps {
  readonly request: RolloutRequest;
  readonly onKept: (id: string) => void;
}

function KeepAs({ request, onKept }: KeepProps) {
  const [name, setName] = useState<string | undefined>();
  const [add, adding] = keptPlansApi.useAddKeptPlanMutation();
  if (name === undefined)
    return (
      <Button size="small" onClick={() => setName('')}>
        Keep this plan
      </Button>
    );
  const keep = async () => {
    const { data } = await add({ body: { name, request } });
    if (!data) return;
    setName(undefined);
    onKept(data.id);
  };
  return (
    <span className="row">
      <Input
        size="small"
        autoFocus
        aria-label="Name of the plan"
        placeholder="a name, such as Sunday in one go"
        style={{ width: 230 }}
        value={name}
        onChange={({ target }) => setName(target.value)}
        onPressEnter={() => void keep()}
      />
      <Button size="small" type="primary" loading={adding.isLoading} onClick={() => void keep()}>
        Keep
      </Button>
      <Button size="small" onClick={() => setName(undefined)}>
        Leave it
      </Button>
      <ProblemNote problem={problemOf(adding.error)} />
    </span>
  );
}

function KeepAsItIs({ open, request, onKept }: KeepProps & { readonly open: KeptPlan }) {
  const [keep, keeping] = keptPlansApi.useKeepPlanMutation();
  const { id, name, revision } = open;
  const press = async () => {
    const { data } = await keep({ params: { id }, body: { name, request, basedOn: revision } });
    if (data) onKept(id);
  };
  return (
    <span className="row">
      <Button size="small" loading={keeping.isLoading} onClick={() => void press()}>
        Keep {name} like this
      </Button>
      <ProblemNote problem={problemOf(keeping.error)} />
    </span>
  );
}
