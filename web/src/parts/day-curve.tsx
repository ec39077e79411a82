/** Expected sessions hour by hour through the day, as a share of the seats there are. */
import './day-curve.css';
import { count, plural } from './format.ts';

interface Props {
  /** 24 numbers, by local hour. */
  readonly expected: readonly number[];
  readonly seats: number;
  readonly hourNow: number;
}

export function DayCurve({ expected, seats, hourNow }: Props) {
  const top = Math.max(seats, ...expected, 1);
  const peak = Math.max(...expected, 0);
  const peakHour = expected.indexOf(peak);
  const left = seats - peak;
  return (
    <section aria-label="Through the day">
      <h2 className="section-title">Through the day</h2>
      <p>
        Busiest at {String(peakHour).padStart(2, '0')}:00 with {plural(peak, 'session')} expected;{' '}
        {left >= 0 ? (
          `${plural(left, 'seat')} to spare.`
        ) : (
          <b className="trouble">{plural(-left, 'seat')} too few.</b>
        )}
      </p>
      <div
        className="day-curve"
        role="img"
        aria-label={`Expected sessions by hour, at most ${count(peak)} of ${plural(seats, 'seat')}`}
      >
        {expected.map((sessions, hour) => (
          <span
            key={hour}
            className={hour === hourNow ? 'now' : ''}
            title={`${String(hour).padStart(2, '0')}:00, ${plural(sessions, 'session')}`}
          >
            <i style={{ height: `${(sessions / top) * 100}%` }} />
          </span>
        ))}
      </div>
      <div className="day-hours" aria-hidden>
        {expected.map((_sessions, hour) => (
          <span key={hour}>{hour % 3 === 0 ? String(hour).padStart(2, '0') : ''}</span>
        ))}
      </div>
      <p className="legend">
        <span>full height: {plural(seats, 'seat')} in service</span>
        <span>dark: this hour</span>
      </p>
    </section>
  );
}
