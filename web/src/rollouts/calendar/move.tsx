/** Moving something planned: what would come of it while it is dragged, and keeping it when it is dropped. */
import { Button, Modal } from 'antd';
import { useMemo, useState } from 'react';
import type { KeptSchedule } from '@vatline/contract/cut-schedule';
import type { Planned } from '@vatline/contract/planned';
import { planCuts } from '@vatline/core/image/cut-plan';
import { movedWindow, type MovedBy } from '@vatline/core/rollout/calendar/moved-window';
import type { StoreLimit } from '@vatline/core/rollout/calendar/planned-work';
import { ruleInWords } from '@vatline/core/time/rule-in-words';
import type { Result } from '@vatline/core/result';
import { imagesApi } from '../../api/images.ts';
import { problemOf } from '../../api/problem.ts';
import { rolloutsApi } from '../../api/rollouts.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { capital, moment, plural } from '../../parts/format.ts';
import { useSettled } from '../../parts/use-settled.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { ChangePlan, Outcome } from '../change-plan.tsx';
import { collisionsAhead, plannedMoved, scheduleMoved } from './moved-planned.ts';

export interface Move {
  readonly planned: Planned;
  readonly by: MovedBy;
}

/** A place that is passed on the way to another is not worked out. */
const SETTLED_MS = 250;

interface PreviewProps extends Move {
  readonly all: readonly Planned[];
  readonly stores: readonly StoreLimit[];
}

export function MovePreview({ planned, by, all, stores }: PreviewProps) {
  const meets = useMemo(
    () => collisionsAhead(plannedMoved(all, planned, by), stores).length,
    [all, planned, by, stores],
  );
  return (
    <div className="move-preview">
      <div role="status">
        {planned.moves === 'rollout' ? (
          <RolloutMove planned={planned} by={by} />
        ) : (
          <ScheduleMove planned={planned} by={by} />
        )}
        <p className="quiet">
          By its windows{' '}
          {meets === 0
            ? 'nothing collides'
            : `there ${meets === 1 ? 'is' : 'are'} ${plural(meets, 'collision')}`}{' '}
          then.
        </p>
      </div>
    </div>
  );
}

function RolloutMove({ planned, by }: Move) {
  const params = { id: planned.of };
  const { data: rollout } = rolloutsApi.useRolloutQuery({ params });
  const settled = useSettled(by, SETTLED_MS);
  const window = rollout && movedWindow(rollout.plan.window, by);
  const asked = rollout && movedWindow(rollout.plan.window, settled);
  const { currentData: preview, error } = rolloutsApi.usePlanPreviewQuery(
    { params, body: { ...(rollout?.plan ?? emptyPlan), ...(asked?.ok && { window: asked.value }) } },
    { skip: !asked?.ok },
  );
  if (!rollout || !window) return null;
  if (!window.ok) return <Refused name={planned.label} why={window} />;
  const isAsked = settled.days === by.days && settled.minutes === by.minutes;
  return (
    <>
      <p>
        <b>{planned.label}</b>: {windowInWords(window.value)}
      </p>
      <ProblemNote problem={problemOf(error)} />
      {!error && <Outcome rollout={rollout} preview={isAsked ? preview : undefined} />}
    </>
  );
}

/** Never asked for: it stands there until the rollout is known. */
const emptyPlan = {
  window: { rule: '', start: '', end: '' },
  zone: '',
  batch: 1,
  maxUnavailable: 1,
  drainLimitMinutes: 0,
  reserve: null,
};

function ScheduleMove({ planned, by }: Move) {
  const { now, zone } = useEstateTime();
  const { data: kept } = imagesApi.useScheduleQuery({ params: { id: planned.lineId ?? '' } });
  if (!kept?.schedule) return null;
  const moved = scheduleMoved(kept.schedule, planned, by);
  if (!moved.ok) return <Refused name={planned.label} why={moved} />;
  const plan = planCuts(moved.value, now, 1);
  const [next] = plan.ok ? plan.value : [];
  const follows = planned.place === null ? undefined : next?.rollouts[planned.place];
  return (
    <p>
      <b>{planned.label}</b>: the next cut is on {next ? moment(next.cutAt, zone) : 'no day'}
      {follows &&
        `, and it begins ${follows.window ? moment(follows.window.start, zone) : 'in no window before the cut after it'}`}
    </p>
  );
}

function Refused({ name, why }: { readonly name: string; readonly why: Result<unknown> }) {
  return (
    <p className="attention">
      <b>{name}</b> stays: {why.ok ? '' : why.error[0]?.message}
    </p>
  );
}

function windowInWords({ rule, start, end }: { rule: string; start: string; end: string }): string {
  return `${ruleInWords(rule)}, ${start} to ${end}`;
}

/** What was dropped, before it is kept. */
export function KeepMove({ move, close }: { readonly move: Move; close(): void }) {
  return move.planned.moves === 'rollout' ? (
    <KeepRolloutMove {...move} close={close} />
  ) : (
    <KeepScheduleMove {...move} close={close} />
  );
}

function KeepRolloutMove({ planned, by, close }: Move & { close(): void }) {
  const { data: rollout } = rolloutsApi.useRolloutQuery({ params: { id: planned.of } });
  if (!rollout) return null;
  const window = movedWindow(rollout.plan.window, by);
  const first = window.ok ? { ...rollout.plan, window: window.value } : rollout.plan;
  return <ChangePlan rollout={rollout} first={first} close={close} />;
}

function KeepScheduleMove({ planned, by, close }: Move & { close(): void }) {
  const params = { id: planned.lineId ?? '' };
  const { data: kept } = imagesApi.useScheduleQuery({ params });
  const [keep, keeping] = imagesApi.useKeepScheduleMutation();
  // As it was when it was dropped: what somebody else keeps meanwhile is refused, and said.
  const [first] = useState<KeptSchedule | undefined>(kept);
  const schedule = first?.schedule;
  if (!first || !schedule) return null;
  const moved = scheduleMoved(schedule, planned, by);
  const press = async () => {
    if (!moved.ok) return;
    const result = await keep({ params, body: { ...moved.value, basedOn: first.revision } });
    if (!result.error) close();
  };
  const before = placeInWords(schedule, planned);
  const after = moved.ok ? placeInWords(moved.value, planned) : before;
  return (
    <Modal
      open
      title={`Move ${planned.kind === 'cut' ? planned.label.replace(/^cut /, 'the cut of ') : planned.label}`}
      onCancel={close}
      footer={[
        <Button key="leave" onClick={close}>
          Leave it
        </Button>,
        <Button
          key="keep"
          type="primary"
          loading={keeping.isLoading}
          disabled={!moved.ok}
          onClick={() => void press()}
        >
          Keep the schedule
        </Button>,
      ]}
    >
      <p>
        {capital(after)}, not {before}.
      </p>
      <ScheduleMove planned={planned} by={by} />
      <ProblemNote problem={problemOf(keeping.error)} />
    </Modal>
  );
}

function placeInWords(
  { rule, at, rollouts }: NonNullable<KeptSchedule['schedule']>,
  { place }: Planned,
): string {
  const window = place === null ? undefined : rollouts[place]?.window;
  return window ? windowInWords(window) : `${ruleInWords(rule)} at ${at}`;
}
