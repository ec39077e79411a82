/** Spares and power of a pool: rules, what they come to hour by hour, a day tried out, and what was measured. */
import './readiness.css';
import { Button, InputNumber } from 'antd';
import { useMemo, useState } from 'react';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import type { Readiness, ReadinessRulesBody } from '@vatline/contract/pool/readiness';
import { readinessFaults, type ReadinessFacts } from '@vatline/core/pool/readiness';
import { planWeek, type WeekPlan } from '@vatline/core/pool/readiness-week';
import { poolsApi } from '../../api/pools.ts';
import { problemOf } from '../../api/problem.ts';
import { Chips } from '../../parts/chips.tsx';
import { Field, ProblemNote } from '../../parts/field.tsx';
import { Finding } from '../../parts/finding.tsx';
import { count, money, plural } from '../../parts/format.ts';
import { KeptMeanwhile } from '../../parts/kept-meanwhile.tsx';
import { useAppDispatch, useAppSelector } from '../../shell/store.ts';
import { PoolTabs } from '../pool-tabs.tsx';
import { DayPanel } from './day-panel.tsx';
import { HoursTable } from './hours-table.tsx';
import { MeasuredPanel } from './measured-panel.tsx';
import { rulesChanged, rulesDraftOf, rulesDropped } from './rules-drafts.ts';
import { WeekGrid, weekdays } from './week-grid.tsx';

export function ReadinessTab({ pool }: { pool: PoolDetail }) {
  const { data, error } = poolsApi.useReadinessQuery({ params: { id: pool.id } });
  if (!data) return <ProblemNote problem={problemOf(error)} />;
  return <OpenReadiness pool={pool} readiness={data} />;
}

function OpenReadiness({ pool, readiness }: { pool: PoolDetail; readiness: Readiness }) {
  const dispatch = useAppDispatch();
  const draft = useAppSelector((state) => rulesDraftOf(state, pool.id));
  const [keep, keeping] = poolsApi.useKeepReadinessMutation();
  const [day, setDay] = useState(readiness.now.day);
  const basedOn = draft?.basedOn ?? readiness.revision;
  const rules = draft?.rules ?? readiness.rules;
  const facts = useMemo(() => factsOf(readiness), [readiness]);
  const plan = useMemo(() => planWeek(facts, rules, readiness.prices), [facts, rules, readiness.prices]);
  const problem = problemOf(keeping.error);
  const faults = readinessFaults(facts, rules);
  const faultAt = (path: string) =>
    faults.find((fault) => fault.path === path)?.message ??
    problem?.faults.find((fault) => fault.path === `rules.${path}`)?.message;
  const change = (part: Partial<ReadinessRulesBody>) =>
    dispatch(rulesChanged({ poolId: pool.id, rules: { ...rules, ...part }, basedOn }));
  const drop = () => {
    dispatch(rulesDropped(pool.id));
    keeping.reset();
  };
  const save = async (isKept: boolean) => {
    const result = await keep({ params: { id: pool.id }, body: { rules, isKept, basedOn } });
    if (!('error' in result)) dispatch(rulesDropped(pool.id));
  };
  return (
    <div className="bench-columns readiness">
      <section className="work" aria-label={`Spares and power of ${pool.name}`}>
        <h1 className="answer">{headline(pool, readiness, plan)}</h1>
        <p className="under-answer">{underHeadline(readiness, plan, draft !== undefined)}</p>
        <PoolTabs pool={pool} />
        <WeekGrid week={rules.week} now={readiness.now} onChange={(week) => change({ week })} />
        <Bounds rules={rules} facts={facts} faultAt={faultAt} change={change} />
        <Warnings facts={facts} rules={rules} plan={plan} />
        <div className="row make-row">
          <Button
            type="primary"
            loading={keeping.isLoading}
            disabled={faults.length > 0 || (readiness.isKept && !draft)}
            onClick={() => void save(true)}
          >
            {readiness.isKept ? 'Keep the new rules' : `Keep ${pool.name} ready by these rules`}
          </Button>
          {readiness.isKept && (
            <Button disabled={faults.length > 0} onClick={() => void save(false)}>
              Leave its hosts alone
            </Button>
          )}
          {draft && <Button onClick={drop}>Drop the changes</Button>}
        </div>
        <ProblemNote problem={problem} shown={boundPaths} />
        <KeptMeanwhile problem={problem} basedOn={basedOn} kept={readiness.revision} onTake={drop} />
        <div className="row hours-head">
          <h2>Hour by hour</h2>
          <Chips
            label="Day of the week"
            options={weekdays.map((name, i) => [String(i), name] as const)}
            chosen={String(day)}
            onPress={(one) => setDay(Number(one))}
          />
        </div>
        {facts.kind === 'pooled' && <SparesChoice rules={rules} plan={plan} day={day} change={change} />}
        <HoursTable
          hours={plan.hours.filter((hour) => hour.day === day)}
          facts={facts}
          rules={rules}
          hourNow={day === readiness.now.day ? readiness.now.hour : undefined}
          onChange={change}
        />
      </section>
      <aside className="evidence" aria-label="What the rules come to">
        {facts.kind === 'pooled' ? (
          <DayPanel readiness={readiness} facts={facts} rules={rules} day={day} />
        ) : (
          <OwnHosts />
        )}
        <CostPanel plan={plan} readiness={readiness} />
        <MeasuredPanel readiness={readiness} />
      </aside>
    </div>
  );
}

const boundPaths = ['fewestHosts', 'mostHosts', 'deleteAfterMinutes', 'drainMinutes', 'reserve'].map(
  (field) => `rules.${field}`,
);

interface BoundsProps {
  readonly rules: ReadinessRulesBody;
  readonly facts: ReadinessFacts;
  readonly faultAt: (path: string) => string | undefined;
  readonly change: (part: Partial<ReadinessRulesBody>) => void;
}

function Bounds({ rules, facts, faultAt, change }: BoundsProps) {
  // What is emptied to be typed anew says nothing yet; the field has its number again when it is left.
  const typed = (value: number | null, set: (value: number) => void) => {
    if (value !== null) set(Math.round(value));
  };
  return (
    <div className="fields bounds">
      {facts.kind === 'pooled' && (
        <>
          <Field
            label="Hosts at most"
            fault={faultAt('mostHosts')}
            hint={
              rules.mostHosts > facts.hosts
                ? `${rules.mostHosts - facts.hosts} more are made when people come`
                : 'none is made'
            }
          >
            <InputNumber
              min={1}
              value={rules.mostHosts}
              onChange={(value) => typed(value, (mostHosts) => change({ mostHosts }))}
            />
          </Field>
          <Field label="Hosts at least" fault={faultAt('fewestHosts')} hint="none is deleted below this">
            <InputNumber
              min={0}
              value={rules.fewestHosts}
              onChange={(value) => typed(value, (fewestHosts) => change({ fewestHosts }))}
            />
          </Field>
          <Field
            label="Deleted after"
            fault={faultAt('deleteAfterMinutes')}
            hint="minutes at rest; empty for never"
          >
            <InputNumber
              min={30}
              value={rules.deleteAfterMinutes}
              onChange={(value) => change({ deleteAfterMinutes: value === null ? null : Math.round(value) })}
            />
          </Field>
        </>
      )}
      <Field label="In reserve, %" fault={faultAt('reserve')} hint="on top of the sessions expected">
        <InputNumber
          min={0}
          max={100}
          value={Math.round(rules.reserve * 100)}
          onChange={(value) => typed(value, (percent) => change({ reserve: percent / 100 }))}
        />
      </Field>
      <Field label="Emptied within" fault={faultAt('drainMinutes')} hint="minutes, before it rests">
        <InputNumber
          min={1}
          max={1_440}
          value={rules.drainMinutes}
          onChange={(value) => typed(value, (drainMinutes) => change({ drainMinutes }))}
        />
      </Field>
    </div>
  );
}

interface SparesProps {
  readonly rules: ReadinessRulesBody;
  readonly plan: WeekPlan;
  readonly day: number;
  readonly change: (part: Partial<ReadinessRulesBody>) => void;
}

/** One's own begin as what is recommended for the day on screen. */
function SparesChoice({ rules, plan, day, change }: SparesProps) {
  const ofDay = () => plan.hours.filter((hour) => hour.day === day).map((hour) => hour.spares);
  return (
    <div className="row">
      <span className="quiet">Spares</span>
      <Chips
        label="Spares"
        options={[
          ['recommended', 'as recommended'],
          ['own', 'my own'],
        ]}
        chosen={rules.spares === 'recommended' ? 'recommended' : 'own'}
        onPress={(how) => change({ spares: how === 'recommended' ? how : ofDay() })}
      />
    </div>
  );
}

/** What rules cannot do, however they are kept to. */
function Warnings({
  facts,
  rules,
  plan,
}: {
  facts: ReadinessFacts;
  rules: ReadinessRulesBody;
  plan: WeekPlan;
}) {
  const most = Math.max(facts.hosts, rules.mostHosts);
  const short = plan.hours.find((hour) => hour.expected > most * facts.sessionLimit);
  const faulty = readinessFaults(facts, rules).find((fault) => fault.path === 'leastOn');
  return (
    <>
      {faulty && <Finding tone="trouble" title={`On at least ${faulty.message}`} />}
      {short && (
        <Finding
          tone="attention"
          title={`At ${short.hour}:00 ${plural(Math.round(short.expected), 'session')} are expected and ${plural(most, 'host')} carry ${count(most * facts.sessionLimit)}: people wait then, whatever the spares`}
        />
      )}
    </>
  );
}

function OwnHosts() {
  return (
    <section aria-label="Whose they are">
      <h2>Each host is one person’s</h2>
      <p>
        Whose will be needed is not known before they come: all are ready in the hours in which anybody is
        expected, and none has to be in the others.
      </p>
    </section>
  );
}

function CostPanel({ plan, readiness: { prices } }: { plan: WeekPlan; readiness: Readiness }) {
  const saved = plan.allOnPerMonth - plan.costPerMonth;
  return (
    <section aria-label="What it costs">
      <h2>What it costs a month</h2>
      <dl className="facts measured">
        <dt>By the rules</dt>
        <dd>{money(plan.costPerMonth)}</dd>
        <dt>All on</dt>
        <dd>{money(plan.allOnPerMonth)}</dd>
        <dt>Saved</dt>
        <dd>
          {money(saved)}
          {plan.allOnPerMonth > 0 && `, ${Math.round((saved / plan.allOnPerMonth) * 100)} %`}
        </dd>
      </dl>
      <p className="quiet">
        {count(plan.onHours)} of {count(plan.allOnHours)} host hours a week, at {prices.perHour.toFixed(2)} an
        hour; a suspended host costs {prices.suspendedPerHour.toFixed(4)}, the storage of its memory.
      </p>
    </section>
  );
}

function factsOf({ facts, leads }: Readiness): ReadinessFacts {
  return {
    ...facts,
    leads: {
      start: leads.start.p90Minutes,
      resume: leads.resume.p90Minutes,
      make: leads.make.p90Minutes,
    },
  };
}

function headline(pool: PoolDetail, { isKept, now, facts }: Readiness, plan: WeekPlan): string {
  const saved = plan.allOnPerMonth - plan.costPerMonth;
  if (isKept)
    return `${now.serving} of ${plural(facts.hosts, 'host')} are ready for ${plural(now.present, 'person', 'people')}; ${count(now.needed)} are needed now.`;
  if (saved > 0) return `By these rules ${pool.name} costs ${money(saved)} a month less.`;
  return `All ${plural(facts.hosts, 'host')} of ${pool.name} are left on; ${count(now.needed)} are needed now.`;
}

function underHeadline({ isKept, now }: Readiness, plan: WeekPlan, isDraft: boolean): string {
  const saved = plan.allOnPerMonth - plan.costPerMonth;
  const kept = isKept
    ? `Kept ready by its rules; ${plural(now.resting, 'host')} rest.`
    : 'Nothing is done by rules yet: choose when hosts that nobody needs may rest.';
  const then = isDraft
    ? ` With what is on screen ${money(plan.costPerMonth)} a month, ${money(Math.abs(saved))} ${saved < 0 ? 'more' : 'less'} than all on.`
    : '';
  return kept + then;
}
