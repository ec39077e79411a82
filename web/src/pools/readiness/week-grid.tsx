/** What hosts that are not needed do in each hour of the week: painted with the mode that is chosen. */
import { useRef, useState, type KeyboardEvent } from 'react';
import { restModes, type RestMode } from '@vatline/core/pool/readiness';
import { Chips } from '../../parts/chips.tsx';

export const dayNames = [
  'Monday',
  'Tuesday',
  'Wednesday',
  'Thursday',
  'Friday',
  'Saturday',
  'Sunday',
] as const;
export const weekdays = dayNames.map((name) => name.slice(0, 3));

const modeWords: Record<RestMode, string> = {
  on: 'stay on',
  suspended: 'are suspended',
  off: 'are switched off',
};
const modeLetters: Record<RestMode, string> = { on: '', suspended: 's', off: 'o' };

interface Props {
  readonly week: readonly (readonly RestMode[])[];
  readonly now: { readonly day: number; readonly hour: number };
  readonly onChange: (week: RestMode[][]) => void;
}

export function WeekGrid({ week, now, onChange }: Props) {
  const [brush, setBrush] = useState<RestMode>('off');
  const [at, setAt] = useState({ day: 0, hour: 0 });
  const painting = useRef(false);
  const grid = useRef<HTMLTableElement>(null);
  const paint = (day: number, from: number, to: number) =>
    onChange(
      week.map((hours, d) => hours.map((mode, h) => (d === day && h >= from && h <= to ? brush : mode))),
    );
  const everyDay = (from: number, to: number) =>
    onChange(week.map((hours) => hours.map((mode, h) => (h >= from && h <= to ? brush : mode))));
  const move = (event: KeyboardEvent, day: number, hour: number) => {
    const step = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] }[event.key];
    if (!step) return;
    event.preventDefault();
    const next = { day: (day + 7 + (step[0] ?? 0)) % 7, hour: (hour + 24 + (step[1] ?? 0)) % 24 };
    setAt(next);
    grid.current?.querySelector<HTMLElement>(`[data-at="${next.day} ${next.hour}"]`)?.focus();
  };
  return (
    <div className="week" onPointerUp={() => (painting.current = false)}>
      <div className="row">
        <span className="quiet">Hosts that are not needed</span>
        <Chips
          label="What hosts that are not needed do"
          options={restModes.map((mode) => [mode, modeWords[mode]] as const)}
          chosen={brush}
          onPress={setBrush}
        />
        <button type="button" className="plain-button" onClick={() => everyDay(0, 23)}>
          at every hour
        </button>
      </div>
      <table className="week-grid" ref={grid} aria-label="Hosts that are not needed, by hour of the week">
        <thead>
          <tr>
            <td />
            {Array.from({ length: 24 }, (_, hour) => (
              <th key={hour} scope="col">
                {hour % 3 === 0 ? String(hour).padStart(2, '0') : ''}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {week.map((hours, day) => (
            <tr key={weekdays[day]}>
              <th scope="row">
                <button type="button" className="plain-button" onClick={() => paint(day, 0, 23)}>
                  {weekdays[day]}
                </button>
              </th>
              {hours.map((mode, hour) => (
                <td key={hour}>
                  <button
                    type="button"
                    className={`week-cell ${mode}${now.day === day && now.hour === hour ? ' now' : ''}`}
                    data-at={`${day} ${hour}`}
                    tabIndex={at.day === day && at.hour === hour ? 0 : -1}
                    aria-label={`${weekdays[day]} ${String(hour).padStart(2, '0')}:00: ${modeWords[mode]}`}
                    onPointerDown={(event) => {
                      event.currentTarget.releasePointerCapture(event.pointerId);
                      painting.current = true;
                      setAt({ day, hour });
                      paint(day, hour, hour);
                    }}
                    onPointerEnter={() => painting.current && paint(day, hour, hour)}
                    onClick={() => paint(day, hour, hour)}
                    onKeyDown={(event) => move(event, day, hour)}
                  >
                    {modeLetters[mode]}
                  </button>
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="legend">
        <span>
          <i className="week-cell on" /> stay on
        </span>
        <span>
          <i className="week-cell suspended">s</i> are suspended
        </span>
        <span>
          <i className="week-cell off">o</i> are switched off
        </span>
        <span>drag to paint; a day’s name paints the day</span>
      </p>
    </div>
  );
}
