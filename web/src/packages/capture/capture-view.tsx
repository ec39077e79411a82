/** How a capture was made: whether its machine was clean, what ran, and the rules that judge it. */
import { Button, Select } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router';
import type { Capture } from '@vatline/contract/capture';
import { builtInNoise } from '@vatline/core/package/noise';
import { jobsApi } from '../../api/jobs.ts';
import { packagesApi } from '../../api/packages.ts';
import { problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { Finding } from '../../parts/finding.tsx';
import { JobCard } from '../../parts/job.tsx';
import { plural } from '../../parts/format.ts';

interface CleanCheck {
  readonly holds: boolean;
  readonly what: string;
  readonly why: string;
  readonly evidence: readonly string[];
}

export function CaptureView({ capture, clean }: { capture: Capture; clean: readonly CleanCheck[] }) {
  return (
    <>
      <h2 className="section-title">Was the machine clean?</h2>
      {clean.map((check) => (
        <Finding key={check.what} tone={check.holds ? 'good' : 'attention'} title={sentence(check.what)}>
          {!check.holds && (
            <>
              {check.why}
              <span className="remedy mono">{check.evidence.slice(0, 6).join(', ')}</span>
            </>
          )}
        </Finding>
      ))}
      <Rules capture={capture} />
      <h2 className="section-title">What ran</h2>
      <p className="quiet">
        {capture.installers.length > 0
          ? `${capture.installers.join(', then ')}; what writes by itself was ${capture.quiet ? 'switched off' : 'left on'}.`
          : 'Inventories and a payload that were brought.'}
      </p>
      <LastJob captureId={capture.id} />
    </>
  );
}

function sentence(text: string): string {
  return `${text.charAt(0).toUpperCase()}${text.slice(1)}`;
}

export function LastJob({ captureId }: { captureId: string }) {
  const { data } = jobsApi.useJobsQuery({ query: { subject: `capture:${captureId}`, limit: 1 } });
  return data?.[0] ? <JobCard job={data[0]} open /> : null;
}

/** By which rules it was judged; others can be tried at any time, since nothing is thrown away. */
function Rules({ capture }: { capture: Capture }) {
  const { data: sets = [] } = packagesApi.useNoiseRulesQuery({});
  const [judge, { error, isLoading }] = packagesApi.useJudgeMutation();
  const now = capture.rules ? `${capture.rules.name}/${capture.rules.revision}` : '';
  const [chosen, setChosen] = useState<string>();
  const value = chosen ?? now;
  const options = [
    { value: '', label: 'the built-in rules alone' },
    ...sets.flatMap((set) =>
      set.revisions.map((row) => ({
        value: `${set.name}/${row.revision}`,
        label: `${set.name}, revision ${row.revision}, ${plural(row.rules.length, 'rule')}`,
      })),
    ),
  ];
  const again = () => {
    const [, name = '', revision = ''] = /^(.*)\/(\d+)$/.exec(value) ?? [];
    const rules = name ? { name, revision: Number(revision) } : null;
    void judge({ params: { id: capture.id }, body: { rules } });
  };
  return (
    <>
      <h2 className="section-title">Judged by which rules?</h2>
      <div className="row">
        <Select
          style={{ width: 330 }}
          aria-label="Noise rules"
          value={value}
          onChange={setChosen}
          options={options}
        />
        <Button disabled={value === now} loading={isLoading} onClick={again}>
          Judge it anew
        </Button>
        <Link to="/packages/rules">Noise rules</Link>
      </div>
      <p className="quiet">
        {capture.rules
          ? `${capture.rules.name}, revision ${capture.rules.revision}, then the ${builtInNoise.length} built-in ones; the first that matches decides.`
          : `The ${builtInNoise.length} built-in ones; the first that matches decides.`}
      </p>
      <ProblemNote problem={problemOf(error)} />
    </>
  );
}
