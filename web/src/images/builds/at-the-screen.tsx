/** The screen of a practice machine: what a person would do there, done by choosing it. */
import { Button, Select } from 'antd';
import { useState } from 'react';
import { handKinds, type HandKind } from '@vatline/contract/hand-work';
import type { LineDetail } from '@vatline/contract/image';
import { newStep } from '@vatline/core/image/new-step';
import type { Step } from '@vatline/core/image/recipe';
import { imagesApi } from '../../api/images.ts';
import { faultAt, problemOf } from '../../api/problem.ts';
import { Field, ProblemNote } from '../../parts/field.tsx';
import { StepField } from '../recipe/step-field.tsx';
import { stepFields } from '../recipe/step-fields.ts';

type Deed = HandKind | 'uninstall';

const words: Record<Deed, string> = {
  application: 'install an application',
  uninstall: 'uninstall an application',
  'registry setting': 'set a registry value',
  'service start': 'set how a service starts',
  'scheduled task': 'make or remove a task',
  shortcut: 'put a shortcut',
  'file copy': 'copy a file',
  certificate: 'import a certificate',
};
/** Fields that only a recipe needs: a person clicks through an installer. */
const notAtTheScreen = new Set(['command', 'exitCodes']);

interface Props {
  readonly line: LineDetail;
  readonly onDone: () => void;
}

export function AtTheScreen({ line, onDone }: Props) {
  const [deed, setDeed] = useState<Deed>('application');
  const [step, setStep] = useState<Step>(() => emptyDeed('application', line));
  const [name, setName] = useState('');
  const [change, { error, isLoading }] = imagesApi.useChangeByHandMutation();
  const problem = problemOf(error);
  const start = (next: Deed) => {
    setDeed(next);
    if (next !== 'uninstall') setStep(emptyDeed(next, line));
  };
  const act = async () => {
    const body = deed === 'uninstall' ? { kind: deed, name } : { kind: 'do' as const, step };
    const result = await change({ params: { id: line.id }, body });
    if ('error' in result) return;
    start(deed);
    setName('');
    onDone();
  };
  const given = step as unknown as Record<string, unknown>;
  const set = (fields: object) => setStep({ ...step, ...fields } as Step);
  const fault = (field: string) => faultAt(problem, `step.${field}`);
  const fields =
    deed === 'uninstall' ? [] : stepFields[deed].filter((spec) => !notAtTheScreen.has(spec.name));
  return (
    <section aria-label="At its screen">
      <h3 className="section-title">At the screen of the practice machine</h3>
      <Select<Deed>
        aria-label="What to do"
        style={{ width: 240, marginBottom: 8 }}
        value={deed}
        options={(['application', 'uninstall', ...handKinds.slice(1)] as const).map((value) => ({
          value,
          label: words[value],
        }))}
        onChange={start}
      />
      {deed === 'uninstall' ? (
        <Field label="Application" fault={faultAt(problem, 'name')}>
          <input className="note-input" value={name} onChange={(event) => setName(event.target.value)} />
        </Field>
      ) : (
        <div className="fields" key={deed}>
          {fields.map((spec) => (
            <StepField
              key={spec.name}
              spec={spec}
              value={given[spec.name]}
              fault={fault(spec.name)}
              onChange={(value) => set({ [spec.name]: value })}
              onInstaller={(installed) => set(installed)}
            />
          ))}
        </div>
      )}
      <ProblemNote problem={problem} shown={['name', ...fields.map((spec) => `step.${spec.name}`)]} />
      <Button loading={isLoading} onClick={() => void act()}>
        Do it
      </Button>
    </section>
  );
}

/** Nothing filled in but what the contract asks for and no person sees. */
function emptyDeed(kind: HandKind, line: LineDetail): Step {
  const step = newStep(kind, [], line.sources);
  return step.kind === 'application' ? { ...step, command: 'by hand' } : step;
}
