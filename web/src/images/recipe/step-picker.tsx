/** Some steps of a recipe, chosen by ticking them. */
import { Checkbox } from 'antd';
import { describeStep } from '@vatline/core/image/describe-step';
import type { Step } from '@vatline/core/image/recipe';

interface Props {
  readonly label: string;
  readonly steps: readonly Step[];
  readonly chosen: ReadonlySet<string>;
  readonly onChange: (chosen: ReadonlySet<string>) => void;
}

export function StepPicker({ label, steps, chosen, onChange }: Props) {
  const toggle = (id: string) => {
    const next = new Set(chosen);
    if (!next.delete(id)) next.add(id);
    onChange(next);
  };
  return (
    <ol aria-label={label}>
      {steps.map((step, i) => {
        const { title, detail } = describeStep(step);
        return (
          <li key={step.id}>
            <Checkbox checked={chosen.has(step.id)} onChange={() => toggle(step.id)}>
              {i + 1} {title} <span className="quiet">{detail}</span>
            </Checkbox>
          </li>
        );
      })}
    </ol>
  );
}
