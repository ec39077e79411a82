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
import { useState, type ReactNode } from 'react';
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

interface Props {
  readonly line: LineDetail;
  readonly plan: LinePlan;
}

export function RecipeTab({ line, plan }: Props) {
  const [editing, setEditing] = useState<string | undefined>();
  const saving = useKeepRecipe(line, plan);
  const { problem } = saving;
  const faultOf = (index: number) =>
    [...plan.fragmentFaults, ...(problem?.faults ?? [])].find((fault) =>
      fault.path.startsWith(`steps.${index}.`),
    );
  const add = (kind: StepKind) => {
    const step = newStep(kind, plan.steps, line.sources);
    plan.change(placedBeforeEnd(plan.steps, [step]));
    setEditing(step.id);
  };
  return (
    <div className="recipe">
      <Ladder line={line} plan={plan} editing={editing} onEdit={setEditing} faultOf={faultOf} />
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
      <Foot line={line} plan={plan} onAdd={add}>
        {plan.isDraft && <KeepRecipe line={line} plan={plan} saving={saving} />}
      </Foot>
      <ProblemNote problem={problem} shown={plan.steps.map((_step, i) => faultOf(i)?.path ?? '')} />
    </div>
  );
}

interface LadderProps extends Props {
  /** The step that is open. */
  readonly editing: string | undefined;
  readonly onEdit: (id: string | undefined) => void;
  readonly faultOf: (index: number) => { readonly message: string } | undefined;
}

function Ladder({ line, plan, editing, onEdit, faultOf }: LadderProps) {
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
  const kept = rowsKept(plan.rows);
  // One list: a row that the waterline passes stays the same row, and keeps the cursor of who types in it.
  const rows = plan.rows.map((row, index) => (
    <Rung
      key={row.step.id}
      {...{ line, plan, row, index, onEdit }}
      isOpen={editing === row.step.id}
      fault={faultOf(index)?.message}
    />
  ));
  if (kept > 0 && kept < rows.length)
    rows.splice(kept, 0, <Waterline key="waterline" minutesSaved={plan.build.minutesSaved} />);
  const preview = dragged && plan.buildOf(dragged);
  return (
    <>
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragOver={(event) => setDragged(droppedAt(event))}
        onDragEnd={onDragEnd}
        onDragCancel={() => setDragged(undefined)}
      >
        <SortableContext items={plan.steps.map((step) => step.id)} strategy={verticalListSortingStrategy}>
          <ol className="ladder">{rows}</ol>
        </SortableContext>
      </DndContext>
      {preview && (
        <p className="drop-preview" role="status">
          Dropped here, the next build takes <b>{minutes(preview.minutesToRun)}</b>, and{' '}
          {plural(preview.stepsKept, 'step')} from checkpoints save {minutes(preview.minutesSaved)}.
        </p>
      )}
    </>
  );
}

interface RungProps extends Props {
  readonly row: PlanRow;
  readonly index: number;
  readonly isOpen: boolean;
  readonly fault: string | undefined;
  readonly onEdit: (id: string | undefined) => void;
}

/** A step with what can be done to it in its place among the others. */
function Rung({ line, plan, row, index, isOpen, fault, onEdit }: RungProps) {
  const { step } = row;
  const duplicate = () => {
    const copy = copyOfStep(step, plan.steps);
    plan.change([...plan.steps.slice(0, index + 1), copy, ...plan.steps.slice(index + 1)]);
    onEdit(copy.id);
  };
  return (
    <StepRow
      row={row}
      library={plan.library}
      sheets={line.optionSheets}
      changed={line.lastCutRecipe.length > 0 && !plan.cutWith.has(stepIdentity(step))}
      editing={isOpen}
      fault={fault}
      onEdit={() => onEdit(isOpen ? undefined : step.id)}
      onChange={(next) => plan.change(plan.steps.map((own) => (own.id === next.id ? next : own)))}
      onDuplicate={duplicate}
      heading={step.section !== plan.steps[index - 1]?.section ? step.section : undefined}
      onRemove={() => plan.change(plan.steps.filter((own) => own.id !== step.id))}
    />
  );
}

interface FootProps extends Props {
  readonly onAdd: (kind: StepKind) => void;
  readonly children: ReactNode;
}

function Foot({ line, plan, onAdd, children }: FootProps) {
  const [picking, setPicking] = useState<'take' | 'fragment' | undefined>();
  const done = () => setPicking(undefined);
  return (
    <>
      <div className="recipe-foot">
        <Select<StepKind>
          className="add-step"
          placeholder="Add a step"
          aria-label="Add a step"
          value={null as never}
          options={stepKinds.map((kind) => ({ value: kind, label: kind }))}
          onChange={onAdd}
        />
        {children}
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
      {picking === 'take' && <TakeSteps lineId={line.id} plan={plan} onDone={done} />}
      {picking === 'fragment' && <MakeFragment plan={plan} onDone={done} />}
    </>
  );
}
