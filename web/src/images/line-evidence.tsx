/** Beside the recipe: what the checks say, what is under way, and the actions. */
import { Button } from 'antd';
import { useState } from 'react';
import type { LineDetail } from '@vatline/contract/image';
import { firstToRun } from '@vatline/core/image/checkpoint-plan';
import { imagesApi } from '../api/images.ts';
import { problemOf } from '../api/problem.ts';
import { DyeChip } from '../parts/dye-chip.tsx';
import { ProblemNote } from '../parts/field.tsx';
import { plural } from '../parts/format.ts';
import { JobCard } from '../parts/job.tsx';
import type { LinePlan } from './line-plan.ts';
import { LineChecks } from './line-checks.tsx';

export function LineEvidence({ line, plan }: { line: LineDetail; plan: LinePlan }) {
  const [build, building] = imagesApi.useBuildMutation();
  const [machine, switching] = imagesApi.useMachineMutation();
  const [cut, cutting] = imagesApi.useCutMutation();
  const [note, setNote] = useState('');
  const params = { id: line.id };
  const problem = problemOf(building.error ?? switching.error ?? cutting.error);
  const stops = plan.checks.findings.some((finding) => finding.severity === 'stops the cut');
  const next = (line.versions[0]?.number ?? 0) + 1;
  const busy = line.activeJob !== null;
  const latest = line.activeJob ?? line.jobs[0];
  const { waterline, stepsKept } = plan.build;
  const first = firstToRun(plan.expanded, waterline);
  return (
    <aside className="evidence" aria-label="Before a cut">
      {latest && (busy || latest.state === 'failed') && (
        <>
          <h2>{busy ? 'Under way' : 'It failed'}</h2>
          <JobCard job={latest} open />
        </>
      )}
      <h2>Before a cut</h2>
      <LineChecks line={line} plan={plan} busy={busy} />
      <div className="stack">
        <div className="row">
          <Button
            type={stops ? 'primary' : 'default'}
            disabled={busy || plan.isDraft || plan.steps.length === 0 || first < 0}
            onClick={() => void build({ params })}
          >
            {stepsKept > 0 && first >= 0 ? `Build from step ${first + 1}` : 'Build'}
          </Button>
          <Button
            type={stops ? 'default' : 'primary'}
            disabled={busy || stops || plan.isDraft}
            onClick={() => void cut({ params, body: { note } })}
          >
            Cut version {next}
          </Button>
        </div>
        {plan.isDraft && <p className="attention">Keep or drop the changes first.</p>}
        {!stops && !plan.isDraft && (
          <input
            className="note-input"
            aria-label="Note of the version"
            placeholder="note of the version"
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
        )}
        {line.machine && line.machine.power === 'off' && !busy && (
          <button
            type="button"
            className="plain-button"
            onClick={() => void machine({ params, body: { action: 'run' } })}
          >
            Run {line.machine.name} to change it by hand
          </button>
        )}
        <ProblemNote problem={problem} />
      </div>
      <h2>Versions</h2>
      {line.versions.slice(0, 5).map((version) => (
        <div key={version.id} className="spread version-row">
          <DyeChip name={version.dye} number={version.number} note={version.state} />
          <span className="quiet small">
            {version.usedBy.map((use) => `${use.pool} ${plural(use.hosts, 'host')}`).join(', ') || 'nowhere'}
          </span>
        </div>
      ))}
      {line.versions.length === 0 && <p className="quiet">None yet. Build, shut the machine down, cut.</p>}
    </aside>
  );
}
