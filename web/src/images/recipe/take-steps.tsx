/** Takes copies of steps of another line's recipe. */
import { Button, Select } from 'antd';
import { useState } from 'react';
import { copiesOf, placedBeforeEnd } from '@vatline/core/image/new-step';
import { imagesApi } from '../../api/images.ts';
import { plural } from '../../parts/format.ts';
import type { LinePlan } from '../line-plan.ts';
import { StepPicker } from './step-picker.tsx';

interface Props {
  readonly lineId: string;
  readonly plan: LinePlan;
  readonly onDone: () => void;
}

const none: ReadonlySet<string> = new Set();

export function TakeSteps({ lineId, plan, onDone }: Props) {
  const { data: lines = [] } = imagesApi.useLinesQuery({});
  const others = lines.filter((line) => line.id !== lineId);
  const [from, setFrom] = useState<string>();
  const [chosen, setChosen] = useState(none);
  const { data: other } = imagesApi.useLineQuery(
    { params: { id: from ?? '' } },
    { skip: from === undefined },
  );
  const take = () => {
    const steps = (other?.recipe ?? []).filter((step) => chosen.has(step.id));
    plan.change(placedBeforeEnd(plan.steps, copiesOf(steps, plan.steps)));
    onDone();
  };
  return (
    <section className="picker" aria-label="Steps of another line">
      <div className="row">
        <span>Take steps from</span>
        <Select<string>
          aria-label="Line to take from"
          style={{ width: 220 }}
          placeholder="choose a line"
          value={(from ?? null) as string}
          options={others.map((line) => ({ value: line.id, label: line.name }))}
          onChange={(id) => {
            setFrom(id);
            setChosen(none);
          }}
        />
      </div>
      {other?.id === from && other && (
        <StepPicker
          label={`Steps of ${other.name}`}
          steps={other.recipe}
          chosen={chosen}
          onChange={setChosen}
        />
      )}
      <div className="row">
        <Button type="primary" disabled={chosen.size === 0} onClick={take}>
          Take {plural(chosen.size, 'step')}
        </Button>
        <Button onClick={onDone}>Leave it</Button>
      </div>
    </section>
  );
}
