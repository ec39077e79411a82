/** Beside a tab of a line: what is under way, what the checks say before a cut, and where the line runs. */
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
import { hostsByPool } from './hosts-by-pool.ts';

/** Tabs about what was cut, which ask first where it runs. */
const aboutVersions = ['versions', 'schedule'];

/** `tab` is the one that is open: what serves it comes first. */
export function LineEvidence({ line, plan, tab }: { line: LineDetail; plan: LinePlan; tab: string }) {
  const isAboutVersions = aboutVersions.includes(tab);
  return (
    <aside className="evidence" aria-label="Beside this">
      <UnderWay line={line} />
      {isAboutVersions && <WhereItRuns line={line} />}
      <BeforeACut line={line} plan={plan} />
      {!isAboutVersions && <WhereItRuns line={line} />}
    </aside>
  );
}

function UnderWay({ line }: { line: LineDetail }) {
  const busy = line.activeJob !== null;
  const latest = line.activeJob ?? line.jobs[0];
  if (!latest || !(busy || latest.state === 'failed')) return null;
  return (
    <>
      <h2>{busy ? 'Under way' : 'It failed'}</h2>
      <JobCard job={latest} open />
    </>
  );
}

function BeforeACut({ line, plan }: { line: LineDetail; plan: LinePlan }) {
  const [build, building] = imagesApi.useBuildMutation();
  const [machine, switching] = imagesApi.useMachineMutation();
  const [cut, cutting] = imagesApi.useCutMutation();
  const [note, setNote] = useState('');
  const params = { id: line.id };
  const problem = problemOf(building.error ?? switching.error ?? cutting.error);
  const stops = plan.checks.findings.some((finding) => finding.severity === 'stops the cut');
  const next = (line.versions[0]?.number ?? 0) + 1;
  const busy = line.activeJob !== null;
  const { waterline, stepsKept } = plan.build;
  const first = firstToRun(plan.expanded, waterline);
  return (
    <section aria-label="Before a cut">
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
    </section>
  );
}

/** Every pool that is made from the line, with the versions on its hosts. */
function WhereItRuns({ line }: { line: LineDetail }) {
  const pools = hostsByPool(line);
  return (
    <section aria-label="Where it runs">
      <h2>Where it runs</h2>
      {pools.map(({ pool, hosts, runs }) => (
        <div key={pool} className="pool-runs">
          <div className="spread">
            <span className="strong">{pool}</span>
            <span className="quiet small">{plural(hosts, 'host')}</span>
          </div>
          <div className="row">
            {runs.map(({ version, hosts: own }) => (
              <DyeChip
                key={version.id}
                name={version.dye}
                number={version.number}
                note={own === hosts ? 'all' : `on ${own}`}
              />
            ))}
          </div>
        </div>
      ))}
      {pools.length === 0 && (
        <p className="quiet">On no host yet. Build, shut the machine down, cut; then make a pool of it.</p>
      )}
    </section>
  );
}
