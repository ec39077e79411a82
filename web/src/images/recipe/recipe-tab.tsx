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
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import { Button, Select } from 'antd';
import { useState } from 'react';
import type { LineDetail } from '@vatline/contract/image';
import { stepIdentity } from '@vatline/core/image/checkpoint-plan';
import { copyOfStep, newStep, placedBeforeEnd, usualRecipe } from '@vatline/core/image/new-step';
import { rowsKept, type PlanRow } from '@vatline/core/image/plan-rows';
import { stepKinds, type Step, type StepKind } from '@vatline/core/image/recipe';
import { ProblemNote } from '../../parts/field.tsx';
import { minutes, plural } from '../../parts/format.ts';
import { Waterline } from '../../parts/waterline.tsx';
import { KeepRecipe, useKeepRecipe } from './keep-recipe.tsx';
import type { LinePlan } from '../line-plan.ts';
import { MakeFragment } from './make-fragment.tsx';
import { StepRow } from './step-row.tsx';
import { TakeSteps } from './take-steps.tsx';

export function RecipeTab({ line, plan }: { line: LineDetail; plan: LinePlan }) {
  const [editing, setEditing] = useState<string | undefined>();
  const [picking, setPicking] = useState<'take' | 'fragment' | undefined>();
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
    plan.change(placedBeforeEnd(plan.steps, [step]));
    setEditing(step.id);
  };
  const faultOf = (index: number) =>
    [...plan.fragmentFaults, ...(problem?.faults ?? [])].find((fault) =>
      fault.path.startsWith(`steps.${index}.`),
    );
  const drawn = (row: PlanRow, index: number) => {
    const { step } = row;
    return (
      <StepRow
        key={step.id}
        row={row}
        library={plan.library}
        sheets={line.optionSheets}
        changed={line.lastCutRecipe.length > 0 && !plan.cutWith.has(stepIdentity(step))}
        editing={editing === step.id}
        fault={faultOf(index)?.message}
        onEdit={() => setEditing(editing === step.id ? undefined : step.id)}
        onChange={(next) => plan.change(plan.steps.map((own) => (own.id === next.id ? next : own)))}
        onDuplicate={() => {
          const copy = copyOfStep(step, plan.steps);
          plan.change([...plan.steps.slice(0, index + 1), copy, ...plan.steps.slice(index + 1)]);
          setEditing(copy.id);
        }}
        heading={step.section !== plan.steps[index - 1]?.section ? step.section : undefined}
        onRemove={() => plan.change(plan.steps.filter((own) => own.id !== step.id))}
      />
    );
  };
  const { build } = plan;
  const kept = rowsKept(plan.rows);
  // One list: a row that the waterline passes stays the same row, and keeps the cursor of who types in it.
  const ladder = plan.rows.map(drawn);
  if (kept > 0 && kept < ladder.length)
    ladder.splice(kept, 0, <Waterline key="waterline" minutesSaved={build.minutesSaved} />);
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
          <ol className="ladder">{ladder}</ol>
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
        {picking === undefined && (
          <>
            <button type="button" className="plain-button" onClick={() => setPicking('take')}>
              Take steps from another line
            </button>
            {plan.steps.length > 0 && (
              <button type="button" className="plain-button" onClick={() => setPicking('fragment')}>
                Make a fragment
              </button>
            )}
          </>
        )}
      </div>
      {picking === 'take' && <TakeSteps lineId={line.id} plan={plan} onDone={() => setPicking(undefined)} />}
      {picking === 'fragment' && <MakeFragment plan={plan} onDone={() => setPicking(undefined)} />}
      <ProblemNote problem={problem} shown={plan.steps.map((_step, i) => faultOf(i)?.path ?? '')} />
    </div>
  );
}
