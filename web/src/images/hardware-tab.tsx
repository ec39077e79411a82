import { InputNumber, Select, Switch } from 'antd';
import type { LineDetail } from '@vatline/contract/image';
import { hardwareSchema } from '@vatline/contract/recipe';
import type { Hardware } from '@vatline/core/image/hardware';
import { Field, ProblemNote } from '../parts/field.tsx';
import { KeepRecipe, useKeepRecipe } from './keep-recipe.tsx';
import type { LinePlan } from './line-plan.ts';

/** Hardware of the build machine. A change makes every checkpoint useless, and says so beforehand. */
export function HardwareTab({ line, plan }: { line: LineDetail; plan: LinePlan }) {
  const saving = useKeepRecipe(line, plan);
  return (
    <div style={{ maxWidth: 520 }}>
      <HardwareFields value={plan.hardware} onChange={(hardware) => plan.change(plan.steps, hardware)} />
      <p className="quiet">Other hardware is another machine: every step runs again after a change here.</p>
      {plan.isDraft && (
        <div className="row" style={{ marginTop: 12 }}>
          <KeepRecipe line={line} plan={plan} saving={saving} />
        </div>
      )}
      <ProblemNote problem={saving.problem} />
    </div>
  );
}

export function HardwareFields({
  value,
  onChange,
}: {
  value: Hardware;
  onChange: (hardware: Hardware) => void;
}) {
  const result = hardwareSchema.safeParse(value);
  const faults = Object.fromEntries(
    result.success ? [] : result.error.issues.map((issue) => [String(issue.path[0]), issue.message]),
  );
  return (
    <div className="fields">
      <Field label="Processors" fault={faults['processors']}>
        <InputNumber value={value.processors} onChange={(n) => onChange({ ...value, processors: n ?? 0 })} />
      </Field>
      <Field label="Memory, GB" fault={faults['memoryBytes']}>
        <InputNumber
          value={value.memoryBytes / 1e9}
          onChange={(n) => onChange({ ...value, memoryBytes: (n ?? 0) * 1e9 })}
        />
      </Field>
      <Field label="Disk, GB" fault={faults['diskBytes']}>
        <InputNumber
          value={value.diskBytes / 1e9}
          onChange={(n) => onChange({ ...value, diskBytes: (n ?? 0) * 1e9 })}
        />
      </Field>
      <Field label="Firmware">
        <Select
          aria-label="Firmware"
          value={value.firmware}
          onChange={(firmware) => onChange({ ...value, firmware })}
          options={[
            { value: 'uefi', label: 'UEFI' },
            { value: 'bios', label: 'BIOS' },
          ]}
        />
      </Field>
      <Field label="Graphics processor">
        <Switch
          checked={value.graphics}
          onChange={(graphics) => onChange({ ...value, graphics })}
          aria-label="Graphics processor"
        />
      </Field>
    </div>
  );
}
