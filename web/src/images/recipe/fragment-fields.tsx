/** Which fragment a step stands for, at which revision, and what is in it. */
import { Button, Select } from 'antd';
import { Link } from 'react-router';
import { describeStep } from '@vatline/core/image/describe-step';
import { fragmentKey, newestRevision, type FragmentLibrary } from '@vatline/core/image/fragments';
import type { FragmentStep, Step } from '@vatline/core/image/recipe';
import { Field } from '../../parts/field.tsx';

interface Props {
  readonly step: FragmentStep;
  readonly library: FragmentLibrary;
  readonly onChange: (step: Step) => void;
}

export function FragmentFields({ step, library, onChange }: Props) {
  const names = [...new Set([...library.keys()].map((key) => key.slice(0, key.lastIndexOf('@'))))].sort();
  const newest = newestRevision(library, step.fragment);
  const content = library.get(fragmentKey(step)) ?? [];
  if (names.length === 0)
    return (
      <p className="quiet">
        There is no fragment yet. <Link to="/images/fragments">Make the first</Link> from steps that several
        lines have.
      </p>
    );
  return (
    <>
      <div className="fields">
        <Field label="Fragment">
          <Select<string>
            aria-label="Fragment"
            value={(step.fragment || null) as string}
            placeholder="choose one"
            options={names.map((name) => ({ value: name, label: name }))}
            onChange={(fragment) =>
              onChange({ ...step, fragment, revision: newestRevision(library, fragment) })
            }
          />
        </Field>
        <Field label="Revision" hint={newest > step.revision ? `the newest is ${newest}` : undefined}>
          <Select<number>
            aria-label="Revision"
            value={step.revision}
            options={Array.from({ length: newest }, (_, i) => ({ value: newest - i, label: newest - i }))}
            onChange={(revision) => onChange({ ...step, revision })}
          />
        </Field>
      </div>
      {newest > step.revision && (
        <Button size="small" onClick={() => onChange({ ...step, revision: newest })}>
          Take revision {newest}
        </Button>
      )}
      <ol className="step-inner" aria-label="Steps of the fragment">
        {content.map((inner, i) => {
          const { title, detail } = describeStep(inner);
          return (
            <li key={inner.id}>
              <span className="quiet number">{i + 1}</span>
              <span>{title}</span>
              <span className="quiet clip">{detail}</span>
            </li>
          );
        })}
      </ol>
      {step.fragment && (
        <p className="quiet small">
          Its steps are changed where all lines share them:{' '}
          <Link to={`/images/fragments/${encodeURIComponent(step.fragment)}`}>{step.fragment}</Link>.
        </p>
      )}
    </>
  );
}
