/** Holding what a pool is made from, with the reason, so that no other image comes onto its hosts. */
import { Button, Input } from 'antd';
import { useState } from 'react';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import { poolsApi } from '../api/pools.ts';
import { faultAt, problemOf } from '../api/problem.ts';
import { Field, ProblemNote } from '../parts/field.tsx';
import { Finding } from '../parts/finding.tsx';

export function SourceHold({ pool: { id, sourceHold } }: { pool: PoolDetail }) {
  const [isAsking, setAsking] = useState(false);
  const [reason, setReason] = useState('');
  const [hold, holding] = poolsApi.useHoldSourceMutation();
  const problem = problemOf(holding.error);
  const set = async (text: string) => {
    const result = await hold({ params: { id }, body: { reason: text } });
    if ('error' in result) return;
    setAsking(false);
    setReason('');
  };
  if (sourceHold !== '')
    return (
      <Finding
        tone="attention"
        title="What it is made from is held"
        action={
          <Button size="small" loading={holding.isLoading} onClick={() => void set('')}>
            Let it change
          </Button>
        }
      >
        {sourceHold}
      </Finding>
    );
  if (!isAsking)
    return (
      <Button size="small" onClick={() => setAsking(true)}>
        Hold what it is made from
      </Button>
    );
  return (
    <>
      <Field
        label="Why no other image may come"
        fault={faultAt(problem, 'reason')}
        hint="rollouts and switches are refused with it; making hosts anew is not"
      >
        <Input value={reason} onChange={(event) => setReason(event.target.value)} />
      </Field>
      <ProblemNote problem={problem} shown={['reason']} />
      <div className="row">
        <Button
          size="small"
          type="primary"
          disabled={reason.trim() === ''}
          loading={holding.isLoading}
          onClick={() => void set(reason)}
        >
          Hold it
        </Button>
        <Button size="small" onClick={() => setAsking(false)}>
          Not now
        </Button>
      </div>
    </>
  );
}
