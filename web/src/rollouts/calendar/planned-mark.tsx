/** Something planned as it stands in a day: its dye, its name, when it begins. It opens by a click and is dragged to be moved. */
import { useDraggable } from '@dnd-kit/core';
import { useNavigate } from 'react-router';
import type { Planned } from '@vatline/contract/planned';
import { dye } from '@vatline/core/dye/dyes';
import { dyeBackground } from '../../parts/hatch.ts';
import { moment, plural, time } from '../../parts/format.ts';

interface Props {
  readonly planned: Planned;
  readonly zone: string;
  readonly collides: boolean;
}

export function PlannedMark({ planned, zone, collides }: Props) {
  const { handle, isDragging } = usePlannedDrag(planned);
  return (
    <button
      {...handle}
      className={markClass(planned, collides, isDragging)}
      title={plannedInWords(planned, zone)}
    >
      <PlannedSwatch planned={planned} />
      <span className="planned-name">{planned.label}</span>
      <span className="planned-time">{time(planned.start, zone)}</span>
    </button>
  );
}

/** What makes a button one that opens what it stands for, and can be dragged where it can be moved. */
export function usePlannedDrag(planned: Planned) {
  const navigate = useNavigate();
  const { setNodeRef, listeners, attributes, isDragging } = useDraggable({
    id: planned.id,
    data: { planned },
    disabled: planned.moves === null,
  });
  const handle = {
    type: 'button' as const,
    ref: setNodeRef,
    onClick: () => void navigate(planned.to),
    ...listeners,
    'aria-describedby': planned.moves === null ? undefined : attributes['aria-describedby'],
  };
  return { handle, isDragging };
}

export function markClass({ kind, isOver }: Planned, collides: boolean, isDragging: boolean): string {
  const states = [isOver && 'over', collides && 'collides', isDragging && 'dragged'].filter(Boolean);
  return ['planned', kind.replaceAll(' ', '-'), ...states].join(' ');
}

/** The dye that hosts get; of a version that is not there yet an empty square. */
export function PlannedSwatch({ planned: { kind, version } }: { readonly planned: Planned }) {
  if (kind === 'cut') return <i className="planned-cut" aria-hidden />;
  return (
    <i
      className="planned-swatch"
      style={version ? { background: dyeBackground(version.dye) } : undefined}
      aria-hidden
    />
  );
}

/** All that is known of it, for whoever looks closer. */
export function plannedInWords(planned: Planned, zone: string): string {
  const { kind, label, start, end, worksUntil, hosts, version, fixed, isOver } = planned;
  if (kind === 'cut') return `${label}, ${moment(start, zone)}`;
  const to = version ? ` to ${dye(version.dye).letters} ${version.number}` : '';
  const left = hosts === null ? '' : `, ${plural(hosts, 'host')}${isOver ? '' : ' left'}`;
  const until = worksUntil < end ? `, at work until ${time(worksUntil, zone)}` : '';
  const stays = fixed === '' || isOver ? '' : `; cannot be moved: ${fixed}`;
  return `${label}${to}, ${moment(start, zone)} to ${time(end, zone)}${until}${left}${stays}`;
}
