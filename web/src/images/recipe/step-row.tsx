/** One row of the ladder: a step, or a fragment with the steps it stands for. */
import { useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { describeStep } from '@vatline/core/image/describe-step';
import { newestRevision, type FragmentLibrary } from '@vatline/core/image/fragments';
import { numbersOf, type PlanRow } from '@vatline/core/image/plan-rows';
import type { Step } from '@vatline/core/image/recipe';
import type { FilledSheet } from '@vatline/core/option-sheet/filled-sheet';
import { minutes, plural } from '../../parts/format.ts';
import { StepEditor } from './step-editor.tsx';

interface Props {
  readonly row: PlanRow;
  readonly library: FragmentLibrary;
  readonly sheets: readonly FilledSheet[];
  /** Whether the newest version was cut without it. */
  readonly changed: boolean;
  readonly editing: boolean;
  readonly fault: string | undefined;
  /** Name of the section that begins here. */
  readonly heading: string | undefined;
  readonly onEdit: () => void;
  readonly onChange: (step: Step) => void;
  readonly onDuplicate: () => void;
  readonly onRemove: () => void;
}

export function StepRow({ row, library, sheets, changed, editing, fault, heading, ...on }: Props) {
  const { step, kept } = row;
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({
    id: step.id,
  });
  const { title, detail } = describeStep(step);
  const numbers = numbersOf(row);
  const classes = [
    'step',
    kept ? 'kept' : '',
    isDragging ? 'dragged' : '',
    step.disabled ? 'left-out' : '',
  ].join(' ');
  return (
    <li
      ref={setNodeRef}
      className={classes}
      style={{ transform: CSS.Translate.toString(transform), transition }}
    >
      {heading && <h3 className="step-section">{heading}</h3>}
      <div className="step-row">
        <button
          type="button"
          className="step-handle"
          aria-label={`Move step ${numbers}, ${title}`}
          {...attributes}
          {...listeners}
        >
          <span className="step-number">{numbers}</span>
          <span aria-hidden>⠿</span>
        </button>
        <button type="button" className="step-open" data-edit aria-expanded={editing} onClick={on.onEdit}>
          <span className="strong">{title}</span>
          <span className="step-detail">{step.kind === 'fragment' ? insideOf(row) : detail}</span>
          <span className="attention small">{marksOf(step, changed, library)}</span>
          <span className="number">{kept ? <s>{minutes(row.minutes)}</s> : minutes(row.minutes)}</span>
        </button>
        <button
          type="button"
          className="step-remove"
          aria-label={`Remove step ${numbers}, ${title}`}
          onClick={on.onRemove}
        >
          ×
        </button>
      </div>
      {fault && <div className="field-fault step-fault">{fault}</div>}
      {editing && (
        <StepEditor
          step={step}
          library={library}
          sheets={sheets}
          onChange={on.onChange}
          onDuplicate={on.onDuplicate}
          onClose={on.onEdit}
        />
      )}
    </li>
  );
}

function marksOf(step: Step, changed: boolean, library: FragmentLibrary): string {
  const newest = step.kind === 'fragment' ? newestRevision(library, step.fragment) : 0;
  return [
    step.disabled ? 'left out' : changed ? 'changed' : '',
    step.kind === 'fragment' && newest > step.revision ? `revision ${newest} is out` : '',
    step.alwaysRun ? 'always runs' : '',
    step.restart ? 'restarts' : '',
  ]
    .filter(Boolean)
    .join(', ');
}

/** A fragment in a few words: revision, how many steps, and how many of them come from checkpoints. */
function insideOf({ step, planned, kept }: PlanRow): string {
  const from = planned.filter((own) => own.fromCheckpoint).length;
  const partly = !kept && from > 0 ? `, ${from} of them from checkpoints` : '';
  return `revision ${step.kind === 'fragment' ? step.revision : ''}, ${plural(planned.length, 'step')}${partly}`;
}
