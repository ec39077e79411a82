/** Pausing a rollout, with a reason for whoever finds it so, and letting it go on. */
import { Button, Input, Popover } from 'antd';
import { useState } from 'react';
import type { Rollout } from '@vatline/contract/rollout';
import { faultAt, problemOf } from '../api/problem.ts';
import { rolloutsApi } from '../api/rollouts.ts';
import { Field, ProblemNote } from '../parts/field.tsx';
import { plural } from '../parts/format.ts';

export function PauseButton({ rollout }: { readonly rollout: Rollout }) {
  const [isOpen, setOpen] = useState(false);
  const [why, setWhy] = useState('');
  const [pause, pausing] = rolloutsApi.usePauseRolloutMutation();
  const problem = problemOf(pausing.error);
  const press = async () => {
    const result = await pause({ params: { id: rollout.id }, body: { why } });
    if (!result.error) setOpen(false);
  };
  return (
    <Popover
      trigger="click"
      open={isOpen}
      onOpenChange={setOpen}
      title="Start no host until somebody lets it go on"
      content={
        <div style={{ width: 280 }}>
          {rollout.atWork > 0 && (
            <p className="quiet">{plural(rollout.atWork, 'host')} at work are finished.</p>
          )}
          <Field label="Why" fault={faultAt(problem, 'why')}>
            <Input
              aria-label="Why pause"
              maxLength={500}
              value={why}
              onChange={(event) => setWhy(event.target.value)}
              onPressEnter={() => void press()}
            />
          </Field>
          <ProblemNote problem={problem} shown={['why']} />
          <Button type="primary" loading={pausing.isLoading} onClick={() => void press()}>
            Pause it
          </Button>
        </div>
      }
    >
      <Button>Pause</Button>
    </Popover>
  );
}

export function GoOnButton({ rollout }: { readonly rollout: Rollout }) {
  const [goOn, going] = rolloutsApi.useLetRolloutGoOnMutation();
  return (
    <>
      <Button
        type="primary"
        loading={going.isLoading}
        onClick={() => void goOn({ params: { id: rollout.id } })}
      >
        Go on
      </Button>
      <ProblemNote problem={problemOf(going.error)} />
    </>
  );
}
