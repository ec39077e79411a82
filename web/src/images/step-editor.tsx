/** The fields of one step, edited in place below its row. */
import { Button, Checkbox, Input } from 'antd';
import type { ReactNode } from 'react';
import { stepSchema } from '@vatline/contract/image';
import type { Step } from '@vatline/core/image/recipe';
import { api } from '../shell/api.ts';
import { Field } from '../parts/field.tsx';
import { UnitPicker } from '../parts/unit-picker.tsx';

interface Props {
  readonly step: Step;
  readonly onChange: (step: Step) => void;
  readonly onClose: () => void;
}

/** What the contract says of a step's fields, by field name. */
function faultsOf(step: Step): Record<string, string> {
  const result = stepSchema.safeParse(step);
  if (result.success) return {};
  return Object.fromEntries(result.error.issues.map((issue) => [String(issue.path[0]), issue.message]));
}

export function StepEditor({ step, onChange, onClose }: Props) {
  const faults = faultsOf(step);
  return (
    <div className="step-editor">
      <div className="fields">
        <KindFields step={step} onChange={onChange} faults={faults} />
        <Field label="Note" wide>
          <Input
            value={step.note ?? ''}
            onChange={(event) => onChange({ ...step, note: event.target.value || undefined })}
          />
        </Field>
      </div>
      <div className="spread">
        <Checkbox
          checked={step.alwaysRun ?? false}
          onChange={(event) => onChange({ ...step, alwaysRun: event.target.checked || undefined })}
        >
          Always run; it and everything below never come from a checkpoint
        </Checkbox>
        <Button size="small" onClick={onClose}>
          Close
        </Button>
      </div>
    </div>
  );
}

interface KindProps extends Omit<Props, 'onClose'> {
  readonly faults: Record<string, string>;
}

function KindFields({ step, onChange, faults }: KindProps) {
  const text = (label: string, field: string, wide = false, hint?: ReactNode) => (
    <Field label={label} fault={faults[field]} wide={wide} hint={hint}>
      <Input
        value={String((step as unknown as Record<string, unknown>)[field] ?? '')}
        onChange={(event) => onChange({ ...step, [field]: event.target.value } as Step)}
      />
    </Field>
  );
  switch (step.kind) {
    case 'operating system':
      return (
        <>
          {text('System', 'system')}
          {text('Edition', 'edition')}
          {text('SHA-256 of the media', 'mediaDigest', true)}
        </>
      );
    case 'updates':
      return text('Up to release', 'release', false, 'year and month, as 2027-03');
    case 'host agent':
      return text('Version', 'version');
    case 'join directory':
      return (
        <Field label="Organisational unit" fault={faults['ou']} wide>
          <UnitPicker value={step.ou} onChange={(ou) => onChange({ ...step, ou })} />
        </Field>
      );
    case 'application':
      return <ApplicationFields step={step} onChange={onChange} text={text} faults={faults} />;
    case 'script':
      return (
        <>
          {text('Title', 'title', true)}
          <Field label="Script" fault={faults['text']} wide>
            <Input.TextArea
              className="mono"
              rows={4}
              value={step.text}
              onChange={(event) => onChange({ ...step, text: event.target.value })}
            />
          </Field>
        </>
      );
    case 'restart':
      return <p className="quiet wide">Restarts the machine and waits until it has settled.</p>;
  }
}

function ApplicationFields({
  step,
  onChange,
  text,
  faults,
}: {
  step: Extract<Step, { kind: 'application' }>;
  onChange: (step: Step) => void;
  text: (label: string, field: string, wide?: boolean, hint?: ReactNode) => ReactNode;
  faults: Record<string, string>;
}) {
  const { data: installers = [] } = api.useInstallersQuery({});
  const choose = (name: string) => {
    const found = installers.filter((row) => row.name === name).at(-1);
    onChange(
      found
        ? {
            ...step,
            name,
            publisher: found.publisher,
            version: found.version,
            command: `setup-${found.id.split('-')[0]}.exe /quiet /norestart`,
          }
        : { ...step, name },
    );
  };
  return (
    <>
      <Field label="Name" fault={faults['name']} hint="a known name fills in the rest">
        <Input list="known-installers" value={step.name} onChange={(event) => choose(event.target.value)} />
        <datalist id="known-installers">
          {[...new Set(installers.map((row) => row.name))].map((name) => (
            <option key={name} value={name} />
          ))}
        </datalist>
      </Field>
      {text('Publisher', 'publisher')}
      {text('Version', 'version')}
      <Field label="Exit codes that mean success" fault={faults['exitCodes']}>
        <Input
          defaultValue={step.exitCodes.join(', ')}
          onChange={(event) =>
            onChange({
              ...step,
              exitCodes: event.target.value
                .split(/[\s,]+/)
                .filter((code) => /^-?\d+$/.test(code))
                .map(Number),
            })
          }
        />
      </Field>
      {text(
        'Silent command',
        'command',
        true,
        'without a silent switch the installer waits for a click that nobody makes',
      )}
    </>
  );
}
