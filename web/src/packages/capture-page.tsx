/** One capture on its way from difference to container. */
import './packages.css';
import { useParams } from 'react-router';
import type { Capture, PackageVersion } from '@vatline/contract/package';
import type { CaptureComparison } from '@vatline/core/package/noise';
import type { Finding } from '@vatline/core/package/findings';
import type { PlacementInputs } from '@vatline/core/package/placement';
import { containerSentence, verdictsOn, type Verdict } from '@vatline/core/package/verdict';
import { api, problemOf } from '../shell/api.ts';
import { Station } from '../shell/station.tsx';
import { ProblemNote } from '../parts/field.tsx';
import { How } from '../parts/how.tsx';
import { JobCard } from '../parts/job.tsx';
import { count, plural } from '../parts/format.ts';
import { ClashList } from './clash-list.tsx';
import { ContainerCard } from './container-card.tsx';
import { DifferenceTree } from './difference-tree.tsx';
import { DeliveryAdvice } from './delivery-advice.tsx';
import { FindingsList } from './findings-list.tsx';
import { ManifestForm } from './manifest-form.tsx';
import { PackagesFoot, usePackageRack } from './packages-page.tsx';

type Comparison = CaptureComparison & {
  findings: Finding[];
  placement: Pick<PlacementInputs, 'people' | 'hosts' | 'gigabytes'>;
};

export function CapturePage() {
  const { captureId = '' } = useParams();
  const { packages, items } = usePackageRack();
  const { data: capture, error } = api.useGetCaptureQuery({ params: { id: captureId } });
  const isReady = capture?.state === 'ready' || capture?.state === 'packaged';
  const { data } = api.useComparisonQuery({ params: { id: captureId } }, { skip: !isReady });
  const comparison = data as unknown as Comparison | undefined;
  const { data: clashes = [] } = api.useClashesQuery({ query: { capture: captureId } }, { skip: !isReady });
  const verdicts = comparison
    ? verdictsOn([...comparison.findings, ...(clashes.length > 0 ? [{ kind: 'clash' as const }] : [])])
    : [];
  const container = packages
    ?.flatMap((row) => row.versions)
    .find((version) => version.captureId === captureId);
  return (
    <Station items={items} foot={<PackagesFoot />}>
      <ProblemNote problem={problemOf(error)} />
      {capture && (
        <div className="bench-columns">
          <section className="work capture" aria-label={capture.name}>
            <h1 className="answer">{headline(capture, verdicts, container)}</h1>
            <UnderAnswer capture={capture} />
            <Stages capture={capture} version={container} />
            {capture.activeJob && <JobCard job={capture.activeJob} open={!comparison} />}
            {!capture.activeJob && capture.state === 'failed' && <LastJob captureId={capture.id} />}
            {container && <ContainerCard version={container} />}
            {comparison && <DifferenceTree comparison={comparison} findings={comparison.findings} />}
          </section>
          <aside className="evidence" aria-label="Findings and manifest">
            {comparison && (
              <>
                <h2>Findings</h2>
                <FindingsList findings={comparison.findings} />
                <ClashList clashes={clashes} />
                <DeliveryAdvice verdicts={verdicts} measured={comparison.placement} />
              </>
            )}
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
                {container?.state === 'live'
                  ? 'It is offered to hosts. Attach it to a pool with a rollout; then assign it to a group.'
                  : 'Its containers are built. Choose one, sign it, verify it; then offer it to hosts.'}
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

function headline(
  capture: Capture,
  verdicts: readonly Verdict[],
  container: PackageVersion | undefined,
): string {
  const name = `${capture.proposal.name} ${capture.proposal.version}`;
  if (capture.state === 'failed') return `The capture of ${name} failed.`;
  if (capture.state === 'capturing' || !capture.counts) return `${name} is being captured.`;
  if (container) return `${name} ${ofVersion[container.state]}`;
  return verdicts.length > 0 ? `${name} ${containerSentence(verdicts)}.` : `${name} is captured.`;
}

const ofVersion: Record<PackageVersion['state'], string> = {
  draft: 'is in its container; no host trusts it yet.',
  verified: 'is verified, and can be offered to hosts.',
  live: 'is offered to hosts.',
  held: 'is held: no host is offered it.',
  withdrawn: 'is withdrawn.',
};

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
      {plural(counts.added + counts.changed + counts.removed + counts.moved, 'change')} on a clean machine:{' '}
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

const stages = ['Capture', 'Difference', 'Manifest', 'Container', 'Trust', 'Live'] as const;

/** How many stages lie behind a version in each state. */
const behind: Record<PackageVersion['state'], number> = {
  draft: 4,
  verified: 5,
  live: 6,
  held: 6,
  withdrawn: 6,
};

function Stages({ capture, version }: { capture: Capture; version: PackageVersion | undefined }) {
  const reached = version
    ? behind[version.state]
    : { capturing: 0, failed: 0, ready: 2, packaged: 3 }[capture.state];
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
