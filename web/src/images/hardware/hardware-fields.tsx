/** The fields of a build machine's hardware, each with what is wrong with it. */
import { Button, InputNumber, Select } from 'antd';
import { hardwareSchema } from '@vatline/contract/recipe';
import {
  diskControllers,
  firmwareKinds,
  graphicsKinds,
  leanHardware,
  legacyDevices,
  MOST_DISKS,
  networkKinds,
  type Disk,
  type Hardware,
} from '@vatline/core/image/hardware';
import { Field } from '../../parts/field.tsx';

interface Props {
  readonly value: Hardware;
  readonly onChange: (hardware: Hardware) => void;
}

const asOptions = (values: readonly string[]) => values.map((value) => ({ value, label: value }));

export function HardwareFields({ value, onChange }: Props) {
  const result = hardwareSchema.safeParse(value);
  const faults = Object.fromEntries(
    result.success ? [] : result.error.issues.map((issue) => [issue.path.join('.'), issue.message]),
  );
  const set = (change: Partial<Hardware>) => onChange({ ...value, ...change });
  const pick = <K extends 'network' | 'firmware' | 'graphics'>(
    label: string,
    field: K,
    options: readonly Hardware[K][],
  ) => (
    <Field label={label} fault={faults[field]}>
      <Select<Hardware[K]>
        aria-label={label}
        value={value[field]}
        options={asOptions(options) as { value: Hardware[K]; label: string }[]}
        onChange={(chosen) => set({ [field]: chosen } as Partial<Hardware>)}
      />
    </Field>
  );
  return (
    <>
      <div className="fields">
        <Field label="Processors" fault={faults['processors']}>
          <InputNumber value={value.processors} onChange={(n) => set({ processors: n ?? 0 })} />
        </Field>
        <Field label="Memory, GB" fault={faults['memoryBytes']}>
          <InputNumber
            value={value.memoryBytes / 1e9}
            onChange={(n) => set({ memoryBytes: Math.round((n ?? 0) * 1e9) })}
          />
        </Field>
        {pick('Network adapter', 'network', networkKinds)}
        {pick('Graphics', 'graphics', graphicsKinds)}
        {pick('Firmware', 'firmware', firmwareKinds)}
        <Field label="Devices of old machines" hint="a host polls them for ever; best without">
          <Select
            mode="multiple"
            aria-label="Devices of old machines"
            placeholder="none"
            value={[...value.legacy]}
            options={asOptions(legacyDevices)}
            onChange={(legacy) => set({ legacy: legacyDevices.filter((device) => legacy.includes(device)) })}
          />
        </Field>
      </div>
      <DiskRows disks={value.disks} faults={faults} onChange={(disks) => set({ disks })} />
    </>
  );
}

interface DiskProps {
  readonly disks: readonly Disk[];
  readonly faults: Record<string, string>;
  readonly onChange: (disks: readonly Disk[]) => void;
}

function DiskRows({ disks, faults, onChange }: DiskProps) {
  return (
    <table className="table disk-table">
      <thead>
        <tr>
          <th>Disk</th>
          <th>Size, GB</th>
          <th>Controller</th>
          <th>Space</th>
          <th>
            <span className="sr-only">Take away</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {disks.map((disk, i) => (
          <DiskRow
            key={i}
            number={i + 1}
            disk={disk}
            fault={faults[`disks.${i}.sizeBytes`]}
            onChange={(change) => onChange(disks.map((one, n) => (n === i ? { ...one, ...change } : one)))}
            // A machine starts from its first disk.
            onTakeAway={i > 0 ? () => onChange(disks.filter((_disk, n) => n !== i)) : undefined}
          />
        ))}
        <tr>
          <td colSpan={5}>
            <Button
              size="small"
              disabled={disks.length >= MOST_DISKS}
              onClick={() => onChange([...disks, extraDisk])}
            >
              Add a disk
            </Button>
          </td>
        </tr>
      </tbody>
    </table>
  );
}

interface DiskRowProps {
  /** From 1. */
  readonly number: number;
  readonly disk: Disk;
  readonly fault: string | undefined;
  readonly onChange: (change: Partial<Disk>) => void;
  readonly onTakeAway: (() => void) | undefined;
}

function DiskRow({ number, disk, fault, onChange, onTakeAway }: DiskRowProps) {
  return (
    <tr>
      <td>{number}</td>
      <td>
        <InputNumber
          aria-label={`Size of disk ${number}, GB`}
          value={disk.sizeBytes / 1e9}
          onChange={(n) => onChange({ sizeBytes: Math.round((n ?? 0) * 1e9) })}
        />
        {fault && (
          <span className="field-fault" role="alert">
            {fault}
          </span>
        )}
      </td>
      <td>
        <Select
          aria-label={`Controller of disk ${number}`}
          style={{ width: 122 }}
          value={disk.controller}
          options={asOptions(diskControllers) as { value: Disk['controller']; label: string }[]}
          onChange={(controller) => onChange({ controller })}
        />
      </td>
      <td>
        <Select
          aria-label={`Space of disk ${number}`}
          style={{ width: 76 }}
          value={disk.thin ? 'thin' : 'thick'}
          options={asOptions(['thin', 'thick'])}
          onChange={(space) => onChange({ thin: space === 'thin' })}
        />
      </td>
      <td>
        {onTakeAway && (
          <button
            type="button"
            className="plain-button"
            aria-label={`Take away disk ${number}`}
            onClick={onTakeAway}
          >
            ×
          </button>
        )}
      </td>
    </tr>
  );
}

const extraDisk = leanHardware.disks[0] as Disk;
