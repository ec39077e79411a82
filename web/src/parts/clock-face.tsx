/** The estate's clock: what time it is there, how fast it runs, and where it is sent to. */
import { estateApi } from '../api/estate.ts';
import { problemOf } from '../api/problem.ts';
import type { EstateTime } from '../shell/clock.ts';
import { longDay, nearDay, time } from './format.ts';

export function ClockFace({ clock }: { clock: EstateTime }) {
  const [setClock, { error, reset }] = estateApi.useSetClockMutation({ fixedCacheKey: 'clock' });
  const problem = problemOf(error);
  if (clock.now === 0) return <div className="tape-clock" />;
  return (
    <div className="tape-clock">
      <span className="tape-time">{time(clock.now, clock.zone)}</span>
      {problem ? (
        <button type="button" className="plain-button attention" title={problem.detail} onClick={reset}>
          nothing is planned
        </button>
      ) : (
        <div className="tape-date">{longDay(clock.now, clock.zone)}</div>
      )}
      {clock.jumpingTo === null ? (
        <Speeds clock={clock} />
      ) : (
        <div className="tape-speeds" role="status">
          <span className="quiet small">to {whereTo(clock.jumpingTo, clock)}</span>
          <button type="button" onClick={() => void setClock({ body: { action: 'stop' } })}>
            stop here
          </button>
        </div>
      )}
    </div>
  );
}

/** `21:00 today`, `06:00 on Tue 23 Mar`. */
function whereTo(target: number, { now, zone }: EstateTime): string {
  return `${time(target, zone)} ${nearDay(target, now, zone)}`;
}

function Speeds({ clock }: { clock: EstateTime }) {
  const [setClock] = estateApi.useSetClockMutation({ fixedCacheKey: 'clock' });
  const speed = (rate: 0 | 1 | 60 | 600, label: string, title: string) => (
    <button
      type="button"
      aria-pressed={clock.rate === rate}
      title={title}
      onClick={() => void setClock({ body: { action: 'rate', rate } })}
    >
      {label}
    </button>
  );
  const ahead = (action: 'next event' | 'end of window', label: string, title: string) => (
    <button
      type="button"
      title={title}
      aria-label={title}
      onClick={() => void setClock({ body: { action } })}
    >
      {label}
    </button>
  );
  return (
    <div className="tape-speeds">
      {speed(0, '❚❚', 'Pause the clock')}
      {speed(1, '1×', 'As time passes')}
      {speed(60, '60×', 'An hour in a minute')}
      {speed(600, '600×', 'A night in half a minute')}
      {ahead('next event', '›', 'To the next event')}
      {ahead('end of window', '»', 'To the end of this window')}
    </div>
  );
}
