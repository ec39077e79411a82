/** What the checks found, worst first, each with its reason, its evidence and the action that mends it. */
import { Button, Input } from 'antd';
import { useState } from 'react';
import type { LineDetail } from '@vatline/contract/image';
import type { Fix } from '@vatline/core/image/checks/check';
import { fixedChecks, type CheckFinding } from '@vatline/core/image/checks/check-line';
import { imagesApi } from '../api/images.ts';
import { faultAt, problemOf } from '../api/problem.ts';
import { useEstateTime } from '../shell/clock.ts';
import { ProblemNote } from '../parts/field.tsx';
import { Finding } from '../parts/finding.tsx';
import { day, plural } from '../parts/format.ts';
import type { LinePlan } from './line-plan.ts';

interface Props {
  readonly line: LineDetail;
  readonly plan: LinePlan;
  readonly busy: boolean;
}

const SHOWN = 4;

export function LineChecks({ line, plan, busy }: Props) {
  const { findings, hold } = plan.checks;
  const [all, setAll] = useState(false);
  const stopping = findings.filter((finding) => finding.severity === 'stops the cut').length;
  const shown = all ? findings : findings.slice(0, Math.max(SHOWN, stopping));
  return (
    <div aria-label="Checks" role="group">
      {shown.map((finding) => (
        <FoundBy key={finding.id} finding={finding} line={line} plan={plan} busy={busy} />
      ))}
      {findings.length > shown.length && (
        <button type="button" className="plain-button" onClick={() => setAll(true)}>
          {findings.length - shown.length} more for attention
        </button>
      )}
      <p className="quiet" style={{ margin: '8px 0' }}>
        {findings.length === 0 ? `All ${hold} checks hold.` : `${hold} other checks hold.`}
      </p>
      <SwitchedOff line={line} plan={plan} />
    </div>
  );
}

interface FoundProps extends Props {
  readonly finding: CheckFinding;
}

function FoundBy({ finding, line, plan, busy }: FoundProps) {
  const [giving, setGiving] = useState(false);
  return (
    <Finding
      tone={finding.severity === 'stops the cut' ? 'trouble' : 'attention'}
      title={finding.title}
      action={
        giving ? (
          <ReasonForm line={line} check={finding.id} onDone={() => setGiving(false)} />
        ) : (
          <div className="row">
            {finding.fix && <FixButton fix={finding.fix} line={line} plan={plan} busy={busy} />}
            {!fixedChecks.includes(finding.id) && (
              <button type="button" className="plain-button" onClick={() => setGiving(true)}>
                Switch off
              </button>
            )}
          </div>
        )
      }
    >
      {finding.reason}; {finding.evidence}
    </Finding>
  );
}

const machineFixes = { 'shut down': 'Shut it down', restart: 'Restart it', build: 'Build' } as const;

function FixButton({ fix, line, plan, busy }: Props & { readonly fix: Fix }) {
  const [build, building] = imagesApi.useBuildMutation();
  const [machine, switching] = imagesApi.useMachineMutation();
  const params = { id: line.id };
  if (fix.action === 'change')
    return (
      <Button
        size="small"
        disabled={plan.textFaults.length > 0}
        onClick={() => plan.change(fix.steps, fix.hardware)}
      >
        {fix.label}
      </Button>
    );
  const { action } = fix;
  // A build of what is kept would not mend what is on screen.
  if (action === 'build' && plan.isDraft) return null;
  return (
    <>
      <Button
        size="small"
        disabled={busy}
        onClick={() => void (action === 'build' ? build({ params }) : machine({ params, body: { action } }))}
      >
        {machineFixes[action]}
      </Button>
      <ProblemNote problem={problemOf(building.error ?? switching.error)} />
    </>
  );
}

/** Asks why a check does not count for this line. */
function ReasonForm({
  line,
  check,
  onDone,
}: {
  readonly line: LineDetail;
  readonly check: string;
  readonly onDone: () => void;
}) {
  const [reason, setReason] = useState('');
  const [switchOff, { error, isLoading }] = imagesApi.useSwitchCheckOffMutation();
  const problem = problemOf(error);
  const send = async () => {
    const result = await switchOff({ params: { id: line.id, check }, body: { reason } });
    if (!('error' in result)) onDone();
  };
  return (
    <div className="stack">
      <Input
        size="small"
        aria-label="Why it does not count here"
        placeholder="why it does not count here"
        value={reason}
        onChange={(event) => setReason(event.target.value)}
        onPressEnter={() => void send()}
      />
      {faultAt(problem, 'reason') && (
        <span className="field-fault" role="alert">
          {faultAt(problem, 'reason')}
        </span>
      )}
      <ProblemNote problem={problem} shown={['reason']} />
      <div className="row">
        <Button size="small" disabled={isLoading} onClick={() => void send()}>
          Switch off for {line.name}
        </Button>
        <button type="button" className="plain-button" onClick={onDone}>
          Leave it on
        </button>
      </div>
    </div>
  );
}

/** Checks that are switched off, with the reasons; those that would say something now come with it. */
function SwitchedOff({ line, plan }: { readonly line: LineDetail; readonly plan: LinePlan }) {
  const { zone } = useEstateTime();
  const [switchOn] = imagesApi.useSwitchCheckOnMutation();
  if (line.checksOff.length === 0) return null;
  const title = (id: string) => plan.checks.silenced.find((finding) => finding.id === id)?.title;
  return (
    <details className="switched-off">
      <summary>{plural(line.checksOff.length, 'check')} switched off</summary>
      {line.checksOff.map((check) => (
        <div key={check.id} className="stack small">
          <b>{title(check.id) ?? `${check.id}: holds by now`}</b>
          <span className="quiet">
            {check.reason}, {day(check.at, zone)}
          </span>
          <button
            type="button"
            className="plain-button"
            onClick={() => void switchOn({ params: { id: line.id, check: check.id } })}
          >
            Switch on again
          </button>
        </div>
      ))}
    </details>
  );
}
