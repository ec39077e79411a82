/** One capture on its way from difference to container. */
import '../packages.css';
import { Button } from 'antd';
import { useEffect, useRef } from 'react';
import { useNavigate, useParams } from 'react-router';
import type { Capture } from '@vatline/contract/capture';
import type { Clash, PackageVersion } from '@vatline/contract/package';
import type { Finding } from '@vatline/core/package/findings';
import type { PlacementInputs } from '@vatline/core/package/placement';
import { containerSentence, verdictsOn, type Verdict } from '@vatline/core/package/verdict';
import { packagesApi } from '../../api/packages.ts';
import { problemOf } from '../../api/problem.ts';
import { Station } from '../../shell/station.tsx';
import { ProblemNote } from '../../parts/field.tsx';
import { How } from '../../parts/how.tsx';
import { JobCard } from '../../parts/job.tsx';
import { count, plural } from '../../parts/format.ts';
import { captureViews, CaptureStages, type CaptureView as View } from './capture-stages.tsx';
import { CaptureView, LastJob } from './capture-view.tsx';
import { ClashList } from '../clashes/clash-list.tsx';
import { ContainerCard } from '../containers/container-card.tsx';
import { DeliveryAdvice } from '../manifest/delivery-advice.tsx';
import { DifferenceView } from './difference-view.tsx';
import { FindingsList } from './findings-list.tsx';
import { ManifestForm } from '../manifest/manifest-form.tsx';
import { CapturePackage, usePackageRack } from '../packages-page.tsx';
import { useDifference, type OpenDifference } from './use-difference.ts';
import { useDraft, type Draft } from '../manifest/use-draft.ts';

type Judgement = NonNullable<ReturnType<typeof packagesApi.useJudgementQuery>['data']>;

export function CapturePage() {
  const { captureId = '' } = useParams();
  const { packages, items } = usePackageRack();
  const { data: capture, error } = packagesApi.useGetCaptureQuery({ params: { id: captureId } });
  const container = packages
    ?.flatMap((row) => row.versions)
    .find((version) => version.captureId === captureId);
  return (
    <Station items={items} action={<CapturePackage />}>
      <ProblemNote problem={problemOf(error)} />
      {capture && <CaptureBench key={capture.id} capture={capture} container={container} />}
    </Station>
  );
}

interface BenchProps {
  readonly capture: Capture;
  readonly container: PackageVersion | undefined;
}

function CaptureBench({ capture, container }: BenchProps) {
  const params = { id: capture.id };
  const isReady = capture.state === 'ready' || capture.state === 'packaged';
  const { difference, error: unread } = useDifference(capture, !isReady);
  const { data: judgement } = packagesApi.useJudgementQuery({ params }, { skip: !isReady });
  const { data: clashes = [] } = packagesApi.useClashesQuery(
    { query: { capture: capture.id } },
    { skip: !isReady },
  );
  const draft = useDraft(capture.id, !isReady);
  const view = useView(capture, container);
  useWayToContainer(capture, view);
  const findings = (judgement?.findings ?? []) as unknown as readonly Finding[];
  const verdicts = judgement && draft ? verdictsOn(open(findings, clashes, draft)) : [];
  return (
    <div className="bench-columns">
      <section className="work capture" aria-label={capture.name}>
        <h1 className="answer">{headline(capture, verdicts, container)}</h1>
        <UnderAnswer capture={capture} />
        <CaptureStages capture={capture} version={container} view={view} />
        {capture.activeJob && <JobCard job={capture.activeJob} open={!difference} />}
        {!capture.activeJob && capture.state === 'failed' && <LastJob captureId={capture.id} />}
        {unread && <p className="trouble">{unread}</p>}
        {judgement && draft && (
          <Shown {...{ capture, container, difference, judgement, findings, draft, view }} />
        )}
      </section>
      <aside className="evidence" aria-label="Findings and advice">
        {judgement && draft ? (
          <>
            <NextStep capture={capture} container={container} view={view} />
            <h2>Findings</h2>
            <FindingsList findings={findings} draft={draft} isBuilt={capture.state === 'packaged'} />
            <ClashList clashes={clashes} />
            <DeliveryAdvice verdicts={verdicts} measured={measuredOf(judgement)} />
          </>
        ) : (
          <p className="quiet">What stays when the noise is dropped is judged here.</p>
        )}
      </aside>
    </div>
  );
}

/** The view that the address names, else the one that matters now. */
function useView(capture: Capture, container: PackageVersion | undefined): View {
  const { view } = useParams();
  const named = captureViews.find((one) => one === view);
  if (named && (named !== 'container' || container)) return named;
  return capture.state === 'packaged' && container ? 'container' : 'difference';
}

/** Whoever has filled in the manifest sees the containers as they are built. */
function useWayToContainer({ id, state }: Capture, view: View): void {
  const navigate = useNavigate();
  const before = useRef(state);
  useEffect(() => {
    if (before.current === 'ready' && state === 'packaged' && view === 'manifest')
      void navigate(`/packages/capture/${id}/container`);
    before.current = state;
  }, [id, state, view, navigate]);
}

/** What still has to be answered: an updater that is switched off is dealt with. */
function open(
  findings: readonly Finding[],
  clashes: readonly Clash[],
  draft: Draft,
): { readonly kind: Finding['kind'] }[] {
  return [
    ...findings.filter((finding) => finding.kind !== 'updater' || !draft.updatersOff),
    ...(clashes.length > 0 ? [{ kind: 'clash' as const }] : []),
  ];
}

function measuredOf({ placement }: Judgement): Pick<PlacementInputs, 'people' | 'hosts' | 'gigabytes'> {
  return placement;
}

interface ShownProps extends BenchProps {
  /** None while it is read. */
  readonly difference: OpenDifference | undefined;
  readonly judgement: Judgement;
  readonly findings: readonly Finding[];
  readonly draft: Draft;
  readonly view: View;
}

function Shown({ capture, container, difference, judgement, findings, draft, view }: ShownProps) {
  switch (view) {
    case 'capture':
      return <CaptureView capture={capture} clean={judgement.clean} />;
    case 'container':
      return container ? <ContainerCard version={container} /> : null;
    case 'manifest':
      return difference ? (
        <ManifestForm
          capture={capture}
          calls={difference.calls}
          draft={draft}
          pictures={judgement.pictures}
        />
      ) : (
        <Reading />
      );
    default:
      return difference ? (
        <DifferenceView capture={capture} difference={difference} findings={findings} />
      ) : (
        <Reading />
      );
  }
}

const Reading = () => <p className="quiet">Reading the difference</p>;

function NextStep({ capture, container, view }: BenchProps & { readonly view: View }) {
  const navigate = useNavigate();
  if (capture.state === 'ready' && view !== 'manifest')
    return (
      <Button type="primary" block onClick={() => void navigate(`/packages/capture/${capture.id}/manifest`)}>
        Fill in the manifest
      </Button>
    );
  if (capture.state !== 'packaged') return null;
  return (
    <p className="quiet">
      {container?.state === 'live'
        ? 'It is offered to hosts. Attach it to a pool with a rollout; then assign it to a group.'
        : 'Its containers are built. Choose one, sign it, verify it; then offer it to hosts.'}
    </p>
  );
}

function headline(
  capture: Capture,
  verdicts: readonly Verdict[],
  container: PackageVersion | undefined,
): string {
  const name = `${capture.proposal.name} ${capture.proposal.version}`;
  if (capture.state === 'failed') return `The capture of ${name} failed.`;
  if (capture.state === 'capturing' || !capture.counts) return `${name} is being captured.`;
  if (container && capture.state === 'packaged') return `${name} ${ofVersion[container.state]}`;
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
