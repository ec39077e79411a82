/** One capture on its way from difference to container. */
import './packages.css';
import { useParams } from 'react-router';
import type { Capture } from '@vatline/contract/package';
import type { CaptureComparison } from '@vatline/core/package/noise';
import type { UpdaterFinding } from '@vatline/core/package/updaters';
import { api, problemOf } from '../shell/api.ts';
import { Station } from '../shell/station.tsx';
import { Finding } from '../parts/finding.tsx';
import { ProblemNote } from '../parts/field.tsx';
import { How } from '../parts/how.tsx';
import { JobCard } from '../parts/job.tsx';
import { count, plural } from '../parts/format.ts';
import { ContainerCard } from './container-card.tsx';
import { DifferenceTree } from './difference-tree.tsx';
import { ManifestForm } from './manifest-form.tsx';
import { PackagesFoot, usePackageRack } from './packages-page.tsx';

type Comparison = CaptureComparison & { updaters: UpdaterFinding[] };

export function CapturePage() {
  const { captureId = '' } = useParams();
  const { packages, items } = usePackageRack();
  const { data: capture, error } = api.useGetCaptureQuery({ params: { id: captureId } });
  const isReady = capture?.state === 'ready' || capture?.state === 'packaged';
  const { data } = api.useComparisonQuery({ params: { id: captureId } }, { skip: !isReady });
  const comparison = data as unknown as Comparison | undefined;
  const container = packages
    ?.flatMap((row) => row.versions)
    .find(
      (version) =>
        capture?.state === 'packaged' &&
        version.name === capture.proposal.name &&
        version.version === capture.proposal.version,
    );
  return (
    <Station items={items} foot={<PackagesFoot />}>
      <ProblemNote problem={problemOf(error)} />
      {capture && (
        <div className="bench-columns">
          <section className="work capture" aria-label={capture.name}>
            <h1 className="answer">{headline(capture)}</h1>
            <UnderAnswer capture={capture} />
            <Stages capture={capture} />
            {capture.activeJob && <JobCard job={capture.activeJob} open={!comparison} />}
            {!capture.activeJob && capture.state === 'failed' && <LastJob captureId={capture.id} />}
            {container && <ContainerCard version={container} />}
            {comparison && <DifferenceTree comparison={comparison} updaters={comparison.updaters} />}
          </section>
          <aside className="evidence" aria-label="Findings and manifest">
            {comparison && <Updaters updaters={comparison.updaters} />}
            {comparison && capture.state === 'ready' && (
              <ManifestForm key={capture.id} capture={capture} comparison={comparison} />
            )}
            {!comparison && (
              <p className="quiet">
                What stays when the noise is dropped is judged here, and the manifest is filled in.
              </p>
            )}
            {capture.state === 'packaged' && (
              <p className="quiet">
                Its container is built. Attach it to a pool with a rollout; then assign it to a group.
              </p>
            )}
          </aside>
        </div>
      )}
    </Station>
  );
}

function LastJob({ captureId }: { captureId: string }) {
  const { data } = api.useJobsQuery({ query: { subject: `capture:${captureId}`, limit: 1 } });
  return data?.[0] ? <JobCard job={data[0]} open /> : null;
}

function headline(capture: Capture): string {
  const name = `${capture.proposal.name} ${capture.proposal.version}`;
  const { counts } = capture;
  if (capture.state === 'capturing' || !counts)
    return capture.state === 'failed' ? `The capture of ${name} failed.` : `${name} is being captured.`;
  const kept = counts.added + counts.changed + counts.removed + counts.moved;
  return capture.state === 'packaged'
    ? `${name} is in its container.`
    : `${name} changes ${plural(kept, 'thing')} on a clean machine.`;
}

function UnderAnswer({ capture }: { capture: Capture }) {
  const { counts } = capture;
  if (!counts)
    return (
      <p className="under-answer">
        {capture.source === 'practice' ? 'On the practice packaging machine.' : 'From uploaded inventories.'}
      </p>
    );
  return (
    <p className="under-answer">
      {count(counts.added)} added, {count(counts.changed)} changed, {count(counts.removed)} removed,{' '}
      {count(counts.moved)} moved; {count(counts.dropped)} dropped as noise.{' '}
      <How
        rows={[
          [
            'Compared',
            'two inventories, entry by entry: paths, sizes, digests, registry values, services, tasks',
          ],
          [
            'Dropped',
            'the first noise rule that matches an entry decides; its reason stands beside each row',
          ],
          ['Moved', 'a removed and an added file of the same digest and size'],
        ]}
      />
    </p>
  );
}

const stages = ['Capture', 'Difference', 'Manifest', 'Container', 'Live'] as const;

function Stages({ capture }: { capture: Capture }) {
  const reached = { capturing: 0, failed: 0, ready: 2, packaged: 5 }[capture.state];
  return (
    <ol className="stages" aria-label="How far it is">
      {stages.map((stage, i) => (
        <li
          key={stage}
          className={i < reached ? 'past' : i === reached ? 'here' : ''}
          aria-current={i === reached ? 'step' : undefined}
        >
          {stage}
        </li>
      ))}
    </ol>
  );
}

function Updaters({ updaters }: { updaters: readonly UpdaterFinding[] }) {
  return (
    <>
      <h2>Findings</h2>
      {updaters.length === 0 ? (
        <p className="quiet">No updater was found.</p>
      ) : (
        <Finding tone="attention" title="It updates itself">
          Inside a container its updater fails every night. Switch off:
          {updaters.map((finding) => (
            <span key={finding.remedy} className="remedy">
              {finding.remedy}
            </span>
          ))}
        </Finding>
      )}
    </>
  );
}
