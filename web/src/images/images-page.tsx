/** The Images station: a line's recipe, hardware, builds, versions, and what lies between two versions. */
import './images.css';
import { Button } from 'antd';
import { lazy, Suspense } from 'react';
import { Navigate, NavLink, useNavigate, useParams } from 'react-router';
import type { LineDetail, LineSummary } from '@vatline/contract/image';
import { imagesApi } from '../api/images.ts';
import { problemOf } from '../api/problem.ts';
import { Station } from '../shell/station.tsx';
import { ProblemNote } from '../parts/field.tsx';
import { DyeChip } from '../parts/dye-chip.tsx';
import { ApplicationsBench } from './versions/applications-bench.tsx';
import { BuildsTab } from './builds/builds-tab.tsx';
import { CompareTab } from './compare/compare-tab.tsx';
import { FragmentsBench } from './recipe/fragments-bench.tsx';
import { LineageBench } from './versions/lineage-bench.tsx';
import { LineEvidence } from './line-evidence.tsx';
import { NewLine } from './new-line.tsx';
import { RecipeTab } from './recipe/recipe-tab.tsx';
import { ScheduleTab } from './schedule/schedule-tab.tsx';
import { VersionsTab } from './versions/versions-tab.tsx';
import { useLinePlan } from './line-plan.ts';
import { BuildAnswer } from './builds/build-answer.tsx';

const RecipeTextTab = lazy(() => import('./recipe/recipe-text-tab.tsx'));
const RevisionsTab = lazy(() => import('./recipe/revisions-tab.tsx'));
const HardwareTab = lazy(() => import('./hardware/hardware-tab.tsx'));
const HandTab = lazy(() => import('./builds/hand-tab.tsx'));

const tabs = [
  ['recipe', 'Recipe'],
  ['text', 'As text'],
  ['revisions', 'Revisions'],
  ['hardware', 'Hardware'],
  ['builds', 'Builds'],
  ['hand', 'By hand'],
  ['versions', 'Versions'],
  ['schedule', 'Schedule'],
  ['compare', 'Compare'],
] as const;

export function ImagesPage() {
  const { lineId } = useParams();
  const navigate = useNavigate();
  const { data: lines } = imagesApi.useLinesQuery({});
  const items = (lines ?? []).map((line) => ({
    to: `/images/${line.id}`,
    title: line.name,
    sub: <RackNote line={line} />,
  }));
  const first = lines?.[0];
  return (
    <Station
      items={items}
      action={<Button onClick={() => void navigate('/images/new')}>New image line</Button>}
    >
      {lineId === 'new' ? (
        <NewLine />
      ) : lineId === 'lineage' ? (
        <LineageBench />
      ) : lineId === 'applications' ? (
        <ApplicationsBench />
      ) : lineId === 'fragments' ? (
        <FragmentsBench />
      ) : lineId ? (
        <LineBench key={lineId} id={lineId} />
      ) : first ? (
        <Navigate to={`/images/${first.id}`} replace />
      ) : (
        lines && <NewLine />
      )}
    </Station>
  );
}

function RackNote({ line }: { line: LineSummary }) {
  const newest = line.versions[0];
  if (line.activeJob?.state === 'paused') return <>paused</>;
  if (line.activeJob) return <>{line.activeJob.kind === 'cut' ? 'being cut' : 'being built'}</>;
  return newest ? (
    <DyeChip name={newest.dye} number={newest.number} note={newest.state} />
  ) : (
    <>no version yet</>
  );
}

function LineBench({ id }: { id: string }) {
  const { data: line, error } = imagesApi.useLineQuery({ params: { id } });
  if (error) return <ProblemNote problem={problemOf(error)} />;
  return line ? <OpenLine line={line} /> : null;
}

function OpenLine({ line }: { line: LineDetail }) {
  const { tab = 'recipe' } = useParams();
  const plan = useLinePlan(line);
  return (
    <div className={tab === 'compare' ? undefined : 'bench-columns'}>
      <section className="work" aria-label={line.name}>
        <BuildAnswer line={line} plan={plan} />
        <nav className="tabs" aria-label="Of this line">
          {tabs.map(([path, label]) => (
            <NavLink
              key={path}
              to={path === 'recipe' ? `/images/${line.id}` : `/images/${line.id}/${path}`}
              end
            >
              {label}
            </NavLink>
          ))}
        </nav>
        {tab === 'recipe' && <RecipeTab line={line} plan={plan} />}
        <Suspense fallback={<p className="quiet">Loading.</p>}>
          {tab === 'text' && <RecipeTextTab line={line} plan={plan} />}
          {tab === 'revisions' && <RevisionsTab line={line} />}
          {tab === 'hardware' && <HardwareTab line={line} plan={plan} />}
          {tab === 'hand' && <HandTab line={line} plan={plan} />}
        </Suspense>
        {tab === 'builds' && <BuildsTab line={line} plan={plan} />}
        {tab === 'versions' && <VersionsTab line={line} />}
        {tab === 'schedule' && <ScheduleTab line={line} />}
        {tab === 'compare' && <CompareTab line={line} plan={plan} />}
      </section>
      {/* Two inventories side by side take the whole width. */}
      {tab !== 'compare' && <LineEvidence line={line} plan={plan} tab={tab} />}
    </div>
  );
}
