/** The recipe as a ladder of steps with the waterline; steps are dragged, edited, added and removed. */
import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
  type DragOverEvent,
} from '@dnd-kit/core';
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { Button, Select } from 'antd';
import { useState } from 'react';
import type { LineDetail } from '@vatline/contract/image';
import { stepIdentity, type PlannedStep } from '@vatline/core/image/checkpoint-plan';
import { describeStep } from '@vatline/core/image/describe-step';
import { stepKinds, type Step, type StepKind } from '@vatline/core/image/recipe';
import { ProblemNote } from '../parts/field.tsx';
import { minutes, plural } from '../parts/format.ts';
import { Waterline } from '../parts/waterline.tsx';
import { KeepRecipe, useKeepRecipe } from './keep-recipe.tsx';
import type { LinePlan } from './line-plan.ts';
import { copyOfStep, newStep, usualRecipe } from '@vatline/core/image/new-step';
import { StepEditor } from './step-editor.tsx';

export function RecipeTab({ line, plan }: { line: LineDetail; plan: LinePlan }) {
  const [editing, setEditing] = useState<string | undefined>();
  const saving = useKeepRecipe(line, plan);
  const { problem } = saving;
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  /** The steps as they would be if the dragged one were dropped where it is. */
  const [dragged, setDragged] = useState<readonly Step[] | undefined>();
  const droppedAt = ({ active, over }: DragOverEvent) => {
    if (!over || active.id === over.id) return undefined;
    const at = (id: string | number) => plan.steps.findIndex((step) => step.id === id);
    return arrayMove([...plan.steps], at(active.id), at(over.id));
  };
  const onDragEnd = (event: DragEndEvent) => {
    const steps = droppedAt(event);
    setDragged(undefined);
    if (steps) plan.change(steps);
  };
  const add = (kind: StepKind) => {
    const step = newStep(kind, plan.steps, line.sources);
    const last = plan.steps.at(-1);
    // A restart that ends the recipe stays its end.
    const place = last?.kind === 'restart' && kind !== 'restart' ? plan.steps.length - 1 : plan.steps.length;
    plan.change([...plan.steps.slice(0, place), step, ...plan.steps.slice(place)]);
    setEditing(step.id);
  };
  const row = (planned: PlannedStep, index: number) => (
    <StepRow
      key={planned.step.id}
      planned={planned}
      index={index}
      changed={line.lastCutRecipe.length > 0 && !plan.cutWith.has(stepIdentity(planned.step))}
      editing={editing === planned.step.id}
      fault={problem?.faults.find((fault) => fault.path.startsWith(`steps.${index}.`))?.message}
      onEdit={() => setEditing(editing === planned.step.id ? undefined : planned.step.id)}
      onChange={(step) => plan.change(plan.steps.map((own) => (own.id === step.id ? step : own)))}
      onDuplicate={() => {
        const copy = copyOfStep(planned.step, plan.steps);
        plan.change([...plan.steps.slice(0, index + 1), copy, ...plan.steps.slice(index + 1)]);
        setEditing(copy.id);
      }}
      heading={planned.step.section !== plan.steps[index - 1]?.section ? planned.step.section : undefined}
      onRemove={() => plan.change(plan.steps.filter((own) => own.id !== planned.step.id))}
    />
  );
  const { build } = plan;
  const preview = dragged && plan.buildOf(dragged);
  return (
    <div className="recipe">
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragOver={(event) => setDragged(droppedAt(event))}
        onDragEnd={onDragEnd}
        onDragCancel={() => setDragged(undefined)}
      >
        <SortableContext items={plan.steps.map((step) => step.id)} strategy={verticalListSortingStrategy}>
          <ol className="ladder">
            {build.steps.slice(0, build.waterline).map(row)}
            {build.waterline > 0 && build.waterline < plan.steps.length && (
              <Waterline minutesSaved={build.minutesSaved} />
            )}
            {build.steps.slice(build.waterline).map((planned, i) => row(planned, build.waterline + i))}
          </ol>
        </SortableContext>
      </DndContext>
      {plan.steps.length === 0 && (
        <div className="empty-recipe">
          <p>
            A recipe is what a machine is made of, from its system to its last restart. Begin with what nearly
            every line needs, then put applications before the end of it; or add one step at a time.
          </p>
          <Button type="primary" onClick={() => plan.change(usualRecipe(line.sources))}>
            Begin with the usual steps
          </Button>
        </div>
      )}
      {preview && (
        <p className="drop-preview" role="status">
          Dropped here, the next build takes <b>{minutes(preview.minutesToRun)}</b>, and{' '}
          {plural(preview.stepsKept, 'step')} from checkpoints save {minutes(preview.minutesSaved)}.
        </p>
      )}
      <div className="recipe-foot">
        <Select<StepKind>
          className="add-step"
          placeholder="Add a step"
          aria-label="Add a step"
          value={null as never}
          options={stepKinds.map((kind) => ({ value: kind, label: kind }))}
          onChange={add}
        />
        {plan.isDraft && <KeepRecipe line={line} plan={plan} saving={saving} />}
      </div>
      <ProblemNote
        problem={problem}
        shown={plan.steps.map(
          (_step, i) => problem?.faults.find((f) => f.path.startsWith(`steps.${i}.`))?.path ?? '',
        )}
      />
    </div>
  );
}

interface RowProps {
  readonly planned: PlannedStep;
  readonly index: number;
  readonly changed: boolean;
  readonly editing: boolean;
  readonly fault: string | undefined;
  readonly onEdit: () => void;
  readonly onChange: (step: Step) => void;
  readonly onDuplicate: () => void;
  readonly onRemove: () => void;
  /** Name of the section that begins here. */
  readonly heading: string | undefined;
}

function StepRow({ planned, index, changed, editing, fault, heading, ...on }: RowProps) {
  const { step, fromCheckpoint } = planned;
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({
    id: step.id,
  });
  const { title, detail } = describeStep(step);
  const classes = [
    'step',
    fromCheckpoint ? 'kept' : '',
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
          aria-label={`Move step ${index + 1}, ${title}`}
          {...attributes}
          {...listeners}
        >
          <span className="step-number">{index + 1}</span>
          <span aria-hidden>⠿</span>
        </button>
        <button type="button" className="step-open" data-edit aria-expanded={editing} onClick={on.onEdit}>
          <span className="strong">{title}</span>
          <span className="step-detail">{detail}</span>
          <span className="attention small">
            {[
              step.disabled ? 'left out' : changed ? 'changed' : '',
              step.alwaysRun ? 'always runs' : '',
              step.restart ? 'restarts' : '',
            ]
              .filter(Boolean)
              .join(', ')}
          </span>
          <span className="number">
            {fromCheckpoint ? <s>{minutes(planned.minutes)}</s> : minutes(planned.minutes)}
          </span>
        </button>
        <button
          type="button"
          className="step-remove"
          aria-label={`Remove step ${index + 1}, ${title}`}
          onClick={on.onRemove}
        >
          ×
        </button>
      </div>
      {fault && <div className="field-fault step-fault">{fault}</div>}
      {editing && (
        <StepEditor step={step} onChange={on.onChange} onDuplicate={on.onDuplicate} onClose={on.onEdit} />
      )}
    </li>
  );
}
