/** A rollout through rings: where it is, what it waits for, and when it will be through. */
import { Button, Input, Popover } from 'antd';
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import type { StagedRing, StagedRollout } from '@vatline/contract/rings/staged';
import { faultAt, problemOf } from '../../api/problem.ts';
import { ringsApi } from '../../api/rings.ts';
import { DyeChip } from '../../parts/dye-chip.tsx';
import { Field, ProblemNote } from '../../parts/field.tsx';
import { moment, nearDay, plural, relative, time } from '../../parts/format.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { GateBox } from './gate-box.tsx';
import { Lanes } from './lanes.tsx';
import { ringInWords, stagedLanes } from './staged-lanes.ts';

export function StagedBench() {
  const { stagedId = '' } = useParams();
  const { data: staged, error } = ringsApi.useStagedRolloutQuery({ params: { id: stagedId } });
  const problem = problemOf(error);
  if (problem && !staged) return <ProblemNote problem={problem} />;
  return staged ? <Staged key={staged.id} staged={staged} /> : null;
}

function Staged({ staged }: { readonly staged: StagedRollout }) {
  // The ring that somebody has to look at, unless another one was chosen.
  const [picked, setChosen] = useState<number | undefined>();
  const chosen = picked ?? ringAtHand(staged);
  const ring = staged.rings[chosen];
  return (
    <div className="bench-columns">
      <section className="work" aria-label={`Rollout through rings ${staged.title}`}>
        <Answer staged={staged} />
        <Lanes lanes={stagedLanes(staged)} dye={staged.image?.dye} chosen={chosen} onChoose={setChosen} />
        <Promises staged={staged} />
      </section>
      <aside className="evidence" aria-label="The ring">
        {ring && (
          <>
            <h2>
              {ring.planned.name}, ring {chosen + 1} of {staged.rings.length}
            </h2>
            <p>{ringInWords(ring)}</p>
            {ring.rolloutId !== null && (
              <p>
                <Link to={`/rollouts/${ring.rolloutId}`}>See its rollout, host by host</Link>
              </p>
            )}
            {chosen < staged.rings.length - 1 && <GateBox staged={staged} ring={ring} />}
          </>
        )}
        {staged.endedAt === null && staged.state !== 'stopped' && <StopButton staged={staged} />}
      </aside>
    </div>
  );
}

/** The last one that has begun: the gate behind it is what stands open or shut now. */
function ringAtHand({ rings }: StagedRollout): number {
  const begun = rings.findLastIndex((ring) => ring.state === 'started' || ring.state === 'done');
  return Math.max(0, begun);
}

function Answer({ staged }: { readonly staged: StagedRollout }) {
  const { now, zone } = useEstateTime();
  const { title, image, packages, by, startedAt, order } = staged;
  return (
    <>
      <h1 className={staged.state === 'held' ? 'answer trouble' : 'answer'}>{headline(staged, now, zone)}</h1>
      <p className="under-answer">
        {image && (
          <>
            <DyeChip name={image.dye} number={image.number} note={image.line} />
            {', '}
          </>
        )}
        {packages.length > 0 && `${packages.join(', ')}, `}
        through{' '}
        {order ? (
          <Link to={`/rollouts/rings/${order.id}`}>
            {title}, revision {order.revision}
          </Link>
        ) : (
          `the rings behind ${title}`
        )}
        , {by === null ? 'by schedule' : `by ${by}`} {relative(startedAt, now)}: {staged.done} of{' '}
        {plural(staged.hosts, 'host')} done.
      </p>
    </>
  );
}

function headline(
  { state, heldWhy, asksSince, expectedAt, endedAt, rings }: StagedRollout,
  now: number,
  zone: string,
) {
  if (state === 'held') return `Held: ${heldWhy}.`;
  if (state === 'stopped') {
    const why = heldWhy === '' ? '' : `: ${heldWhy}`;
    return endedAt === null
      ? `Stopping${why}. Hosts at work are finished.`
      : `Stopped ${moment(endedAt, zone)}${why}.`;
  }
  if (state === 'done')
    return endedAt === null ? 'Done.' : `Through all rings since ${moment(endedAt, zone)}.`;
  const ahead =
    expectedAt === null
      ? ''
      : ` Through by ${time(expectedAt, zone)} ${nearDay(expectedAt, now, zone)} (9 in 10).`;
  if (asksSince !== null)
    return `Waits for an approval since ${time(asksSince, zone)} ${nearDay(asksSince, now, zone)}.${ahead}`;
  const waiting = rings.find(
    (ring) => ring.state === 'started' && ring.gate.for === 'soak' && ring.gate.until !== null,
  );
  if (waiting && waiting.gate.until !== null && rings.some((ring) => ring.state === 'waiting'))
    return `${waiting.planned.name} soaks until ${time(waiting.gate.until, zone)} ${nearDay(waiting.gate.until, now, zone)}.${ahead}`;
  return ahead === '' ? 'Waits for somebody: a ring is paused, or never ends.' : ahead.trim();
}

/** What was promised at the start against what was, or is expected now. */
function Promises({ staged }: { readonly staged: StagedRollout }) {
  const { zone } = useEstateTime();
  const when = (at: number | null) => (at === null ? '–' : moment(at, zone));
  return (
    <table className="table">
      <thead>
        <tr>
          <th>Ring</th>
          <th className="number">Done</th>
          <th>Began</th>
          <th>Done, promised 9 in 10</th>
          <th>Done, now</th>
          <th>The gate behind it</th>
        </tr>
      </thead>
      <tbody>
        {staged.rings.map((ring, i) => (
          <tr key={ring.number}>
            <td>{ring.planned.name}</td>
            <td className="number">
              {ring.done} of {ring.hosts}
            </td>
            <td>{when(ring.beganAt)}</td>
            <td>{when(ring.promised.finish.p90)}</td>
            <td>{nowInWords(ring, when)}</td>
            <td className={ring.gate.does === 'hold' && ring.state !== 'dropped' ? 'trouble' : 'quiet'}>
              {i === staged.rings.length - 1 ? '' : gateNow(ring)}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function nowInWords({ endedAt, expected, state }: StagedRing, when: (at: number | null) => string): string {
  if (endedAt !== null) return when(endedAt);
  if (state === 'dropped') return 'dropped';
  return expected ? `${when(expected.finish.p90)} (9 in 10)` : 'not known';
}

function gateNow({ gate }: StagedRing): string {
  return gate.does === 'open' ? `open${gate.why === '' ? '' : `, ${gate.why}`}` : gate.why;
}

function StopButton({ staged }: { readonly staged: StagedRollout }) {
  const [isOpen, setOpen] = useState(false);
  const [why, setWhy] = useState('');
  const [stop, stopping] = ringsApi.useStopStagedMutation();
  const problem = problemOf(stopping.error);
  const waiting = staged.rings.filter((ring) => ring.state === 'waiting').length;
  const press = async () => {
    const result = await stop({ params: { id: staged.id }, body: { why } });
    if (!result.error) setOpen(false);
  };
  return (
    <Popover
      trigger="click"
      open={isOpen}
      onOpenChange={setOpen}
      title="Begin no further ring or host"
      content={
        <div style={{ width: 280 }}>
          <p className="quiet">
            {plural(waiting, 'ring')} will not begin. Hosts at work are finished; what is done stays.
          </p>
          <Field label="Why" fault={faultAt(problem, 'why')}>
            <Input
              aria-label="Why stop"
              maxLength={500}
              value={why}
              onChange={(event) => setWhy(event.target.value)}
            />
          </Field>
          <ProblemNote problem={problem} shown={['why']} />
          <Button danger loading={stopping.isLoading} onClick={() => void press()}>
            Stop it here
          </Button>
        </div>
      }
    >
      <Button>Stop the rollout</Button>
    </Popover>
  );
}
