/** Makes a fragment of steps of this recipe, which then names it in their place. */
import { Button, Input } from 'antd';
import { useState } from 'react';
import { freeId } from '@vatline/core/image/new-step';
import type { Step } from '@vatline/core/image/recipe';
import { imagesApi } from '../../api/images.ts';
import { faultAt, problemOf } from '../../api/problem.ts';
import { Field, ProblemNote } from '../../parts/field.tsx';
import { plural } from '../../parts/format.ts';
import type { LinePlan } from '../line-plan.ts';
import { StepPicker } from './step-picker.tsx';

interface Props {
  readonly plan: LinePlan;
  readonly onDone: () => void;
}

export function MakeFragment({ plan, onDone }: Props) {
  const [name, setName] = useState('');
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [keep, { error, isLoading }] = imagesApi.useKeepFragmentMutation();
  const problem = problemOf(error);
  const steps = plan.steps.filter((step) => chosen.has(step.id));
  const make = async () => {
    const body = { steps: steps.map(withoutSection), basedOn: 0 };
    const result = await keep({ params: { name }, body });
    if ('error' in result) return;
    plan.change(inPlace(plan.steps, chosen, name));
    onDone();
  };
  return (
    <section className="picker" aria-label="A fragment of steps">
      <p className="quiet">
        What several lines need stands once, by revision: tick the steps; the fragment takes the place of the
        first of them.
      </p>
      <StepPicker label="Steps of this line" steps={plan.steps} chosen={chosen} onChange={setChosen} />
      <Field label="Name of the fragment" fault={faultAt(problem, 'name')}>
        <Input style={{ width: 260 }} value={name} onChange={(event) => setName(event.target.value)} />
      </Field>
      <ProblemNote problem={problem} shown={['name']} />
      <div className="row">
        <Button
          type="primary"
          loading={isLoading}
          disabled={chosen.size === 0 || name.trim() === ''}
          onClick={() => void make()}
        >
          Make a fragment of {plural(chosen.size, 'step')}
        </Button>
        <Button onClick={onDone}>Leave it</Button>
      </div>
    </section>
  );
}

/** Sections are those of the recipe that names the fragment. */
function withoutSection({ section: _section, ...step }: Step): Step {
  return step as Step;
}

function inPlace(steps: readonly Step[], chosen: ReadonlySet<string>, fragment: string): Step[] {
  const others = steps.filter((step) => !chosen.has(step.id));
  const named: Step = { id: freeId('fragment', others), kind: 'fragment', fragment, revision: 1 };
  const first = steps.findIndex((step) => chosen.has(step.id));
  const before = steps.slice(0, first);
  return [...before, named, ...others.slice(before.length)];
}
