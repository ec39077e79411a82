/** The fields of one step, edited in place below its row. */
import { Button, Checkbox, Input, InputNumber, Select } from 'antd';
import { useState } from 'react';
import { stepSchema } from '@vatline/contract/recipe';
import type { FragmentLibrary } from '@vatline/core/image/fragments';
import type { Step } from '@vatline/core/image/recipe';
import type { FilledSheet } from '@vatline/core/option-sheet/filled-sheet';
import { describeSuccessCheck } from '@vatline/core/image/success-check';
import { Field } from '../../parts/field.tsx';
import { FragmentFields } from './fragment-fields.tsx';
import { SheetFields } from './sheet-fields.tsx';
import { StepField } from './step-field.tsx';
import { stepFields } from './step-fields.ts';
import { SuccessCheckFields } from './success-check-fields.tsx';

interface Props {
  readonly step: Step;
  readonly library: FragmentLibrary;
  readonly sheets: readonly FilledSheet[];
  readonly onChange: (step: Step) => void;
  readonly onDuplicate: () => void;
  readonly onClose: () => void;
}

/** What the contract says of a step's fields, by the path of the field. */
function faultsOf(step: Step): Record<string, string> {
  const result = stepSchema.safeParse(step);
  if (result.success) return {};
  return Object.fromEntries(result.error.issues.map((issue) => [issue.path.join('.'), issue.message]));
}

export function StepEditor({ step, library, sheets, onChange, onDuplicate, onClose }: Props) {
  const faults = faultsOf(step);
  const given = step as unknown as Record<string, unknown>;
  const set = (change: object) => onChange({ ...step, ...change });
  // Only at first: what folds up while it is filled in would be worse than what stays open.
  const [openAtFirst] = useState(() => commonFields.some((field) => faults[field]));
  return (
    <div className="step-editor">
      <div className="fields">
        {stepFields[step.kind].map((spec) => (
          <StepField
            key={spec.name}
            spec={spec}
            value={given[spec.name]}
            fault={faults[spec.name]}
            language={step.kind === 'script' ? step.language : undefined}
            onChange={(value) => set({ [spec.name]: value })}
            onInstaller={({ command, ...rest }) =>
              set(step.kind === 'application' ? { ...rest, command } : rest)
            }
          />
        ))}
      </div>
      {step.kind === 'application by option sheet' && (
        <SheetFields step={step} sheets={sheets} fault={faults['sheet']} onChange={onChange} />
      )}
      {step.kind === 'fragment' && <FragmentFields step={step} library={library} onChange={onChange} />}
      <details className="how-it-runs" open={openAtFirst}>
        <summary>
          {step.kind === 'fragment' ? 'How it stands here' : 'How it runs'}
          <span className="quiet">: {inWords(step)}</span>
        </summary>
        <HowItRuns step={step} faults={faults} set={set} />
      </details>
      <div className="spread">
        <span className="row">
          <Checkbox
            checked={step.disabled ?? false}
            onChange={(event) => set({ disabled: event.target.checked || undefined })}
          >
            Leave it out of builds
          </Checkbox>
          <Checkbox
            checked={step.alwaysRun ?? false}
            onChange={(event) => set({ alwaysRun: event.target.checked || undefined })}
          >
            Always run, never from a checkpoint
          </Checkbox>
        </span>
        <span className="row">
          <Button size="small" onClick={onDuplicate}>
            Duplicate
          </Button>
          <Button size="small" onClick={onClose}>
            Close
          </Button>
        </span>
      </div>
    </div>
  );
}

/** Fields that every step has and that the contract can find a fault in. */
const commonFields = ['label', 'section', 'retries', 'expectedMinutes'];

function inWords(step: Step): string {
  const { label, section, restart, retries, expectedMinutes, success, note } = step;
  const parts = [
    label && `called ${label}`,
    section && `in ${section}`,
    restart && `restarts ${restart}`,
    retries && `tries again ${retries} times`,
    expectedMinutes && `expected to take ${expectedMinutes} min`,
    success && describeSuccessCheck(success),
    note && `note: ${note}`,
  ];
  const usual =
    step.kind === 'fragment'
      ? 'each step runs as the fragment says'
      : 'once, without a restart; nothing is looked for afterwards';
  return parts.filter(Boolean).join('; ') || usual;
}

interface RunProps {
  readonly step: Step;
  readonly faults: Record<string, string>;
  readonly set: (change: object) => void;
}

/** What every step has: its name, its place, and what happens around it. */
function HowItRuns({ step, faults, set }: RunProps) {
  return (
    <div className="fields">
      <Field label="Label" fault={faults['label']} hint="in place of the usual title">
        <Input
          value={step.label ?? ''}
          onChange={(event) => set({ label: event.target.value || undefined })}
        />
      </Field>
      <Field label="Section" fault={faults['section']}>
        <Input
          value={step.section ?? ''}
          onChange={(event) => set({ section: event.target.value || undefined })}
        />
      </Field>
      {step.kind !== 'fragment' && <OwnRun step={step} faults={faults} set={set} />}
      <Field label="Note">
        <Input value={step.note ?? ''} onChange={(event) => set({ note: event.target.value || undefined })} />
      </Field>
      {step.kind !== 'fragment' && (
        <SuccessCheckFields value={step.success} faults={faults} onChange={(success) => set({ success })} />
      )}
    </div>
  );
}

/** What happens around a step; a fragment says it of each of its own. */
function OwnRun({ step, faults, set }: RunProps) {
  return (
    <>
      <Field label="Restart after it">
        <Select<string>
          aria-label="Restart after it"
          value={step.restart ?? 'no'}
          options={['no', 'when asked', 'always'].map((value) => ({ value, label: value }))}
          onChange={(restart) => set({ restart: restart === 'no' ? undefined : restart })}
        />
      </Field>
      <Field label="Tries again" fault={faults['retries']} hint="after a failure">
        <InputNumber value={step.retries ?? 0} onChange={(n) => set({ retries: n || undefined })} />
      </Field>
      <Field label="Expected minutes" fault={faults['expectedMinutes']} hint="while it has no history">
        <InputNumber
          value={step.expectedMinutes ?? null}
          onChange={(n) => set({ expectedMinutes: n ?? undefined })}
        />
      </Field>
    </>
  );
}
