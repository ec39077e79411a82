/** The line drawn large: each image line's lane, the hosts that run it, and what needs a person. */
import './home.css';
import { Button } from 'antd';
import { Link, useNavigate } from 'react-router';
import type { Home } from '@vatline/contract/home';
import { homeApi } from '../api/home.ts';
import { poolsApi } from '../api/pools.ts';
import { problemOf } from '../api/problem.ts';
import { useEstateTime } from '../shell/clock.ts';
import { firstSteps, type FirstStep } from './first-steps.ts';
import { DyeChip } from '../parts/dye-chip.tsx';
import { Finding } from '../parts/finding.tsx';
import { count, moment, nearDay, plural, time } from '../parts/format.ts';
import { HostGrid } from '../parts/host-grid.tsx';
import { rowsOf } from '../parts/paged-list.tsx';
import { ProblemNote } from '../parts/field.tsx';

type Lane = Home['lanes'][number];

export function HomePage() {
  const { data, error } = homeApi.useHomeQuery({});
  if (error) return <ProblemNote problem={problemOf(error)} />;
  if (!data) return null;
  return (
    <div className="bench-columns bench">
      <section className="work" aria-label="The line">
        {data.hosts === 0 ? <FirstSteps home={data} /> : <Answer home={data} />}
        {data.lanes.map((lane) => (
          <LaneRow key={lane.lineId} lane={lane} />
        ))}
        {data.lanes.length > 0 && <Legend />}
        {data.lanes.length > 0 && <Lately />}
      </section>
      <Needs home={data} />
    </div>
  );
}

function FirstSteps({ home }: { home: Home }) {
  return (
    <section aria-label="First steps">
      <h1 className="answer">
        {home.lanes.length === 0 ? 'Nothing is on the line yet.' : 'No host runs anything yet.'}
      </h1>
      <p className="under-answer">
        Two desktops can be had in one go. Or work along the line from left to right; what is not ready yet
        says what it lacks.
      </p>
      <FirstDesktops />
      <ol className="first-steps">
        {firstSteps(home).map((step) => (
          <li key={step.action} className={`first-step ${step.state.replaceAll(' ', '-')}`}>
            <b>{step.station}</b>
            <p>{step.what}</p>
            <StepEnd step={step} />
          </li>
        ))}
      </ol>
    </section>
  );
}

function FirstDesktops() {
  const navigate = useNavigate();
  return (
    <div className="row" style={{ margin: '4px 0 18px' }}>
      <Button type="primary" size="large" onClick={() => void navigate('/first-desktops')}>
        First desktops
      </Button>
    </div>
  );
}

function StepEnd({ step }: { step: FirstStep }) {
  const navigate = useNavigate();
  if (step.state === 'done') return <span className="good">done</span>;
  if (step.lacks !== '') return <span className="quiet">needs {step.lacks}</span>;
  return <Button onClick={() => void navigate(step.to)}>{step.action}</Button>;
}

function Answer({ home }: { home: Home }) {
  const { now, zone } = useEstateTime();
  const { next } = home;
  return (
    <>
      <h1 className="answer">
        {home.asTheyShould === home.hosts
          ? `All ${count(home.hosts)} hosts run what they should.`
          : `${count(home.asTheyShould)} of ${count(home.hosts)} hosts run what they should.`}
      </h1>
      <p className="under-answer">
        {next ? (
          <>
            Next:{' '}
            <Link to={`/rollouts/${next.rolloutId}`}>
              {plural(next.hosts, 'host')} of {next.pool}
            </Link>
            , {next.windowStart <= now ? 'now' : nearDay(next.windowStart, now, zone)}{' '}
            {time(next.windowStart, zone)} to {time(next.windowEnd, zone)}
            {next.expectedAt !== null && (
              <>
                , done by <b>{`${nearDay(next.expectedAt, now, zone)} ${time(next.expectedAt, zone)}`}</b> (9
                in 10)
              </>
            )}
            .
          </>
        ) : (
          'No rollout is planned.'
        )}
      </p>
    </>
  );
}

function LaneRow({ lane }: { lane: Lane }) {
  return (
    <div className="lane">
      <div className="lane-line">
        <Link to={`/images/${lane.lineId}`} className="lane-name">
          {lane.line}
        </Link>
        <div className="quiet small">
          recipe {lane.recipeRevision}, {plural(lane.steps, 'step')}
        </div>
        {lane.versions.map((version) => (
          <Link key={version.id} to={`/images/${lane.lineId}/versions`} className="lane-version">
            <DyeChip name={version.dye} number={version.number} note={version.state} />
          </Link>
        ))}
        {lane.versions.length === 0 && <div className="quiet small">no version yet</div>}
      </div>
      <div className="lane-pools">
        {lane.pools.map((pool) => (
          <PoolRow key={pool.id} pool={pool} />
        ))}
        {lane.pools.length === 0 && <div className="quiet lane-pool">no pool runs it</div>}
      </div>
    </div>
  );
}

function PoolRow({ pool }: { pool: Lane['pools'][number] }) {
  const navigate = useNavigate();
  const { now, zone } = useEstateTime();
  const { data: cells = [] } = poolsApi.useCellsQuery({ params: { id: pool.id } });
  const { rollout } = pool;
  return (
    <div className="lane-pool">
      <span className="lane-arrow" aria-hidden>
        ⟶
      </span>
      <Link to={`/pools/${pool.id}`} className="lane-pool-name">
        <b className="mono">{pool.name}</b>
        <span className="quiet small">{plural(pool.hosts, 'host')}</span>
      </Link>
      <HostGrid
        cells={cells}
        cellSize={13}
        maxHeight={120}
        label={`${pool.name}: ${plural(pool.hosts, 'host')}`}
        onOpen={(cell) => void navigate(`/pools/${pool.id}?host=${cell.name}`)}
      />
      {rollout ? (
        <Link to={`/rollouts/${rollout.id}`} className="lane-next">
          {rollout.windowStart === null
            ? `${rollout.left} left, ${rollout.isPaused ? 'paused' : 'no window'}`
            : `${rollout.left} left: ${rollout.windowStart <= now ? 'now' : nearDay(rollout.windowStart, now, zone)} ${time(rollout.windowStart, zone)}–${time(rollout.windowEnd ?? rollout.windowStart, zone)}`}
          {rollout.expectedAt !== null && (
            <span className="quiet small">
              done by {`${nearDay(rollout.expectedAt, now, zone)} ${time(rollout.expectedAt, zone)}`}
            </span>
          )}
        </Link>
      ) : (
        <span className="lane-next quiet">nothing planned</span>
      )}
    </div>
  );
}

/** The last things that happened; the journal has the rest. */
function Lately() {
  const rows = rowsOf(homeApi.useJournalInfiniteQuery({ query: { limit: 5 } }));
  const { zone } = useEstateTime();
  if (rows.length === 0) return null;
  return (
    <section className="lately" aria-label="Lately">
      <h2 className="section-title">Lately</h2>
      {rows.map((row) => (
        <div key={row.id} className="lately-row">
          <time className="quiet">{moment(row.at, zone)}</time>
          <Link to={row.to}>{row.text}</Link>
        </div>
      ))}
    </section>
  );
}

function Legend() {
  return (
    <p className="legend">
      <span>A cell is a host; its colour is the version it runs.</span>
      <span>Corner: what it is to run</span>
      <span>Dashed: draining</span>
      <span>Bar: at work</span>
      <span>Crossed: failed</span>
    </p>
  );
}

function Needs({ home }: { home: Home }) {
  const navigate = useNavigate();
  return (
    <aside className="evidence" aria-label="What needs you">
      <h2>What needs you</h2>
      {home.needs.map((need) => (
        <Finding
          key={need.id}
          tone={need.tone}
          title={need.title}
          action={
            <button type="button" className="outline-button" onClick={() => void navigate(need.to)}>
              {need.action}
            </button>
          }
        >
          {need.detail}
        </Finding>
      ))}
      {home.needs.length === 0 && <p className="quiet">Nothing. What comes next is on the tape below.</p>}
    </aside>
  );
}
