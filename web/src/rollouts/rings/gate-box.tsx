/** The gate behind a ring: how it stands, with the evidence, and what somebody decides there. */
import { Button, Input } from 'antd';
import { useState } from 'react';
import type { Decision } from '@vatline/core/rollout/rings/gate';
import type { StagedRing, StagedRollout } from '@vatline/contract/rings/staged';
import { callerApi } from '../../api/caller.ts';
import { faultAt, problemOf } from '../../api/problem.ts';
import { ringsApi } from '../../api/rings.ts';
import { ActsAs } from '../../parts/acts-as.tsx';
import { Field, ProblemNote } from '../../parts/field.tsx';
import { capital, moment } from '../../parts/format.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { gateInWords } from './planned-lanes.ts';

interface Props {
  readonly staged: StagedRollout;
  readonly ring: StagedRing;
}

export function GateBox({ staged, ring }: Props) {
  const { gate, planned, done, hosts, failed, setAside } = ring;
  const { zone } = useEstateTime();
  const isOver = staged.endedAt !== null || staged.state === 'stopped';
  return (
    <>
      <h2>The gate behind it</h2>
      <p className={gate.does === 'hold' ? 'trouble' : gate.does === 'wait' ? 'attention' : ''}>
        <b>{standing(ring, staged)}</b>
        {gate.until !== null && `, until ${moment(gate.until, zone)}`}
      </p>
      <dl className="gate-facts">
        <div>
          <dt>It asks for</dt>
          <dd>{gateInWords(planned.gate)}</dd>
        </div>
        <div>
          <dt>Hosts</dt>
          <dd>
            {done} of {hosts} done, {failed + setAside} failed
          </dd>
        </div>
        {gate.health && gate.health.changed.signIns + gate.health.earlier.signIns > 0 && (
          <SignIns health={gate.health} />
        )}
      </dl>
      {gate.decisions.length > 0 && (
        <ul className="decisions">
          {gate.decisions.map(({ what, by, at, why }) => (
            <li key={at}>
              <b>{capital(what)}</b>, {by ?? 'nobody'}, {moment(at, zone)}
              <br />
              <span className="quiet">{why}</span>
            </li>
          ))}
        </ul>
      )}
      {!isOver && ring.state !== 'waiting' && gate.does !== 'open' && <Decide staged={staged} ring={ring} />}
    </>
  );
}

function standing({ gate, planned }: StagedRing, { state, heldWhy }: StagedRollout): string {
  if (gate.does === 'open')
    return state === 'held' && heldWhy !== ''
      ? `Open, but ${heldWhy}`
      : `Open${gate.why === '' ? '' : `: ${gate.why}`}`;
  return gate.does === 'hold' ? `Held: ${gate.why}` : capital(gate.why || `${planned.name} is under way`);
}

function SignIns({ health }: { readonly health: NonNullable<StagedRing['gate']['health']> }) {
  const { changed, earlier, p, isSlower } = health;
  const seconds = (n: number | null) => (n === null ? '–' : `${n.toFixed(0)} s`);
  return (
    <div>
      <dt>Sign-ins after the change, and before it</dt>
      <dd className={isSlower ? 'trouble' : ''}>
        {seconds(changed.median)} against {seconds(earlier.median)} in the middle, {seconds(changed.p95)}{' '}
        against {seconds(earlier.p95)} for the slowest twentieth
        <span className="quiet">
          {' '}
          ({changed.signIns} and {earlier.signIns} sign-ins
          {p === null ? '; too few to say' : `, p ${p < 0.001 ? '< 0.001' : `= ${p.toFixed(3)}`}`})
        </span>
      </dd>
    </div>
  );
}

function Decide({ staged, ring }: Props) {
  const { data: caller } = callerApi.useCallerQuery({});
  const [why, setWhy] = useState('');
  const [decide, deciding] = ringsApi.useDecideAtGateMutation();
  const problem = problemOf(deciding.error);
  const press = async (what: Decision) => {
    const body = { ring: ring.number, what, why, seen: ring.gate.decisions.length };
    const result = await decide({ params: { id: staged.id }, body });
    if (!result.error) setWhy('');
  };
  const button = (what: Decision, label: string, type: 'primary' | 'default') => (
    <Button type={type} loading={deciding.isLoading} onClick={() => void press(what)}>
      {label}
    </Button>
  );
  if (caller?.role !== 'approver')
    return <ActsAs note="An approver decides here, who did not begin the rollout." />;
  return (
    <>
      <ActsAs note="" />
      <Field label="Why" fault={faultAt(problem, 'why')} hint="stands in the record beside the decision">
        <Input
          aria-label="Why decide so"
          maxLength={500}
          value={why}
          onChange={(event) => setWhy(event.target.value)}
        />
      </Field>
      <ProblemNote problem={problem} shown={['why']} />
      <div className="row">
        {ring.gate.does === 'hold' ? (
          button('open anyway', 'Open it anyway', 'default')
        ) : (
          <>
            {ring.planned.gate.needsApproval && button('approve', 'Approve', 'primary')}
            {button('refuse', 'Refuse', 'default')}
          </>
        )}
      </div>
    </>
  );
}
