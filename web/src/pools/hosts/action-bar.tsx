/** What can be done to the chosen hosts: first what will happen, then the button that does it. */
import { Button, Checkbox, Input, InputNumber } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router';
import { hostActions, type HostAction } from '@vatline/core/pool/host-actions';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import type { EffectShown } from '@vatline/contract/pool/host-action';
import { poolsApi } from '../../api/pools.ts';
import { faultAt, problemOf } from '../../api/problem.ts';
import { Chips } from '../../parts/chips.tsx';
import { Field, ProblemNote } from '../../parts/field.tsx';
import { plural } from '../../parts/format.ts';
import { effectInWords } from './effect-in-words.ts';

const verbs: Record<HostAction, string> = {
  hold: 'Hold back',
  'let in': 'Let people in',
  drain: 'Drain',
  restart: 'Restart',
  'power off': 'Power off',
  'power on': 'Power on',
  message: 'Send a message',
  'keep a copy': 'Keep a copy',
  remove: 'Remove',
};

interface Props {
  readonly pool: PoolDetail;
  readonly names: readonly string[];
  done(): void;
}

export function ActionBar({ pool, names, done }: Props) {
  const [action, setAction] = useState<HostAction>();
  return (
    <section className="action-bar" aria-label="Act on the chosen hosts">
      <div className="spread">
        <b>{plural(names.length, 'host')} chosen</b>
        <Button size="small" onClick={done}>
          Choose none
        </Button>
      </div>
      <Chips
        label="What to do"
        options={hostActions.map((one) => [one, verbs[one]] as const)}
        chosen={action}
        onPress={setAction}
      />
      <MadeAnew pool={pool} names={names} />
      {action && <Prepared key={action} pool={pool} names={names} action={action} done={done} />}
    </section>
  );
}

/** An address holds no more names. */
const MOST_PICKED = 50;

/** By a rollout, which drains, makes, checks and can be forecast. */
function MadeAnew({ pool, names }: Pick<Props, 'pool' | 'names'>) {
  if (names.length > MOST_PICKED) return null;
  const only = `/rollouts/new?pool=${pool.id}&hosts=${names.join(',')}`;
  return (
    <p className="quiet">
      Or plan a rollout of just these: <Link to={`${only}&remake`}>make them anew</Link>, or{' '}
      <Link to={only}>try another image on them</Link>.
    </p>
  );
}

function Prepared({ pool, names, action, done }: Props & { action: HostAction }) {
  const [text, setText] = useState('');
  const [limitMinutes, setLimit] = useState<number | null>(30);
  const [losesData, setLosesData] = useState(false);
  const params = { id: pool.id };
  const body = {
    action,
    hosts: [...names],
    text,
    losesData,
    ...(limitMinutes === null ? {} : { limitMinutes }),
  };
  const { data: effect, error } = poolsApi.usePreviewActionQuery({
    params,
    body: { action, hosts: [...names] },
  });
  const [act, acting] = poolsApi.useActOnHostsMutation();
  const problem = problemOf(acting.error);
  const press = async () => {
    const result = await act({ params, body });
    if (result.data) done();
  };
  if (!effect) return <ProblemNote problem={problemOf(error)} />;
  return (
    <>
      <EffectWords effect={effect} action={action} />
      {action === 'message' && (
        <Field label="What they are told" fault={faultAt(problem, 'text')}>
          <Input value={text} onChange={(event) => setText(event.target.value)} />
        </Field>
      )}
      {action === 'drain' && (
        <>
          <Field
            label="What those on them are told first"
            fault={faultAt(problem, 'text')}
            hint="nothing where it is empty"
          >
            <Input value={text} onChange={(event) => setText(event.target.value)} />
          </Field>
          <Field label="Minutes that people may stay" fault={faultAt(problem, 'limitMinutes')}>
            <InputNumber value={limitMinutes} min={0} onChange={setLimit} />
          </Field>
        </>
      )}
      {effect.dataLostBytes > 0 && (
        <Field label="Personal data" fault={faultAt(problem, 'losesData')}>
          <Checkbox checked={losesData} onChange={(event) => setLosesData(event.target.checked)}>
            The personal data on them may be lost
          </Checkbox>
        </Field>
      )}
      <ProblemNote problem={problem} shown={['text', 'limitMinutes', 'losesData']} />
      <Button
        type="primary"
        danger={action === 'remove'}
        disabled={effect.hosts.length === 0}
        loading={acting.isLoading}
        onClick={() => void press()}
      >
        {action === 'message'
          ? `Send it to those on ${plural(effect.hosts.length, 'host')}`
          : action === 'let in'
            ? `Let people in on ${plural(effect.hosts.length, 'host')}`
            : `${verbs[action]} ${plural(effect.hosts.length, 'host')}`}
      </Button>
    </>
  );
}

function EffectWords({ effect, action }: { effect: EffectShown; action: HostAction }) {
  const { said, passedOver, isShort } = effectInWords(action, effect);
  return (
    <>
      <p className={isShort ? 'trouble' : ''}>{said}</p>
      {passedOver && <p className="quiet">{passedOver}</p>}
    </>
  );
}
