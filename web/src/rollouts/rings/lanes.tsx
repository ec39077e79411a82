/** Rings as lanes one under the other, on one axis of time: when each begins, works and is done, and the gate behind it. */
import './rings.css';
import type { DyeName } from '@vatline/core/dye/dyes';
import { wallClock } from '@vatline/core/time/zone';
import { useEstateTime } from '../../shell/clock.ts';
import { day, moment, time } from '../../parts/format.ts';
import { dyeBackground } from '../../parts/hatch.ts';
import { laneSpan, laneTicks, place, stretch, type Lane, type Span } from './lane-times.ts';

interface Props {
  readonly lanes: readonly Lane[];
  /** Of the version that goes through them; nothing for packages only. */
  readonly dye: DyeName | undefined;
  readonly chosen: number | undefined;
  readonly onChoose: (number: number) => void;
}

/** Percent from the left behind which a label would stick out. */
const LAST_LABEL = 90;

export function Lanes({ lanes, dye, chosen, onChoose }: Props) {
  const { now, zone } = useEstateTime();
  const span = laneSpan(lanes, now);
  const ticks = laneTicks(span, (at) => wallClock(zone, at).minutes);
  return (
    <div className="lanes">
      <ol>
        {lanes.map((lane, number) => (
          <li key={number} className={chosen === number ? 'lane chosen' : 'lane'}>
            <button
              type="button"
              className="lane-head"
              aria-pressed={chosen === number}
              onClick={() => onChoose(number)}
            >
              <b>{lane.name}</b>
              <span className="quiet" title={lane.note}>
                {lane.note}
              </span>
            </button>
            <Track lane={lane} span={span} dye={dye} zone={zone} />
          </li>
        ))}
      </ol>
      <div className="lane-axis" aria-hidden>
        {ticks
          .filter((at) => place(at, span) < LAST_LABEL)
          .map((at) => (
            <span key={at} style={{ left: `${place(at, span)}%` }}>
              {wallClock(zone, at).minutes === 0 ? day(at, zone) : time(at, zone)}
            </span>
          ))}
      </div>
      <div className="lane-now" aria-hidden>
        <span style={{ left: `${place(now, span)}%` }} />
      </div>
      <p className="quiet small lane-legend">
        Bar: its hosts in work, in the middle; dashes: until done in 9 of 10; dots: soak and approval; arch:
        the gate; tinted: its windows.
      </p>
    </div>
  );
}

interface TrackProps {
  readonly lane: Lane;
  readonly span: Span;
  readonly dye: DyeName | undefined;
  readonly zone: string;
}

function Track({ lane, span, dye, zone }: TrackProps) {
  const { from, to, latest, gate, windows } = lane;
  const work = from !== null && to !== null ? stretch(from, to, span) : undefined;
  const late = to !== null && latest !== null ? stretch(to, latest, span) : undefined;
  const soak = to !== null && gate && gate.at !== null ? stretch(to, gate.at, span) : undefined;
  const says = laneInWords(lane, zone);
  return (
    <div className="lane-track" role="img" aria-label={says} title={says}>
      {windows.map(({ start, end }) => {
        const at = stretch(start, end, span);
        return at && <i key={start} className="lane-window" style={at} />;
      })}
      {soak && <i className="lane-soak" style={soak} />}
      {late && <i className="lane-late" style={late} />}
      {work && (
        <i className="lane-work" style={{ ...work, ...(dye && { background: dyeBackground(dye) }) }}>
          {lane.done > 0 && lane.done < 1 && <i style={{ left: `${lane.done * 100}%` }} />}
        </i>
      )}
      {gate && <Gate gate={gate} at={gate.at ?? latest ?? to} span={span} />}
    </div>
  );
}

function Gate({
  gate,
  at,
  span,
}: {
  readonly gate: NonNullable<Lane['gate']>;
  readonly at: number | null;
  readonly span: Span;
}) {
  if (at === null) return null;
  return <i className={`lane-gate ${gate.does}`} style={{ left: `${place(at, span)}%` }} />;
}

function laneInWords({ name, from, to, latest, gate }: Lane, zone: string): string {
  if (from === null) return `${name}: nothing to do, or never`;
  const when = to === null ? 'not finished' : `done ${moment(to, zone)}`;
  const sure = latest !== null && latest !== to ? `, ${moment(latest, zone)} at the latest in 9 of 10` : '';
  const behind = gate && gate.asks !== '' ? `; then ${gate.asks}` : '';
  return `${name}: begins ${moment(from, zone)}, ${when}${sure}${behind}`;
}
