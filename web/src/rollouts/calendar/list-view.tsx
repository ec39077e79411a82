/** All that is planned in a month, one below the other, with what it takes. */
import { Button } from 'antd';
import { Link } from 'react-router';
import { Virtuoso } from 'react-virtuoso';
import type { Planned } from '@vatline/contract/planned';
import { day as dayName, plural, time } from '../../parts/format.ts';
import { DyeChip } from '../../parts/dye-chip.tsx';
import type { CalendarDay } from './calendar-days.ts';
import { DayNotes, type DayNote } from './day-notes.tsx';
import type { ViewProps } from './month-view.tsx';

type Row = { readonly day: CalendarDay; readonly notes: readonly DayNote[] } | { readonly planned: Planned };

interface Props extends Pick<ViewProps, 'days' | 'byDay' | 'notes' | 'colliding' | 'zone'> {
  readonly onMove: (planned: Planned) => void;
}

export function ListView({ days, byDay, notes, colliding, zone, onMove }: Props) {
  const rows = days.flatMap((day): Row[] => {
    const planned = byDay.get(day.key) ?? [];
    const own = notes.get(day.key) ?? [];
    if (planned.length + own.length === 0) return [];
    return [{ day, notes: own }, ...planned.map((one) => ({ planned: one }))];
  });
  return (
    <Virtuoso
      className="planned-list"
      style={{ height: 470 }}
      data={rows}
      increaseViewportBy={200}
      itemContent={(_i, row) =>
        'day' in row ? (
          <div className="planned-day">
            <b>{dayName(row.day.start, zone)}</b> <DayNotes notes={row.notes} />
          </div>
        ) : (
          <PlannedRow
            planned={row.planned}
            collides={colliding.has(row.planned.of)}
            zone={zone}
            onMove={onMove}
          />
        )
      }
    />
  );
}

interface RowProps extends Pick<Props, 'zone' | 'onMove'> {
  readonly planned: Planned;
  readonly collides: boolean;
}

function PlannedRow({ planned, collides, zone, onMove }: RowProps) {
  const { kind, label, start, end, worksUntil, hosts, batch, version, to, moves, fixed } = planned;
  return (
    <div className="planned-row">
      <span className="mono">
        {kind === 'cut' ? time(start, zone) : `${time(start, zone)} to ${time(end, zone)}`}
      </span>
      <span>
        <Link to={to}>{label}</Link> {version ? <DyeChip name={version.dye} number={version.number} /> : null}
        {kind === 'after a cut' && <span className="quiet">follows the cut</span>}
        {kind === 'ring' && <span className="quiet">a ring that waits</span>}
      </span>
      <span className="quiet">
        {hosts !== null && `${plural(hosts, 'host')}, ${batch ?? 1} at a time`}
        {worksUntil < end && `, until ${time(worksUntil, zone)}`}
      </span>
      <span>
        {collides && <b className="attention">collides </b>}
        {planned.isOver && <span className="quiet">over</span>}
        {moves === 'rollout' && (
          <Button type="link" size="small" onClick={() => onMove(planned)}>
            Change its windows
          </Button>
        )}
        {moves === 'schedule' && <Link to={to}>its schedule</Link>}
        {fixed !== '' && !planned.isOver && <span className="quiet">{fixed}</span>}
      </span>
    </div>
  );
}
