/** The fields of a build machine's hardware, each with what is wrong with it. */
import { Button, InputNumber, Select } from 'antd';
import { hardwareSchema } from '@vatline/contract/recipe';
import {
  diskControllers,
  firmwareKinds,
  graphicsKinds,
  leanHardware,
  legacyDevices,
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
  const put = (i: number, change: Partial<Disk>) =>
    onChange(disks.map((disk, n) => (n === i ? { ...disk, ...change } : disk)));
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
          <tr key={i}>
            <td>{i + 1}</td>
            <td>
              <InputNumber
                aria-label={`Size of disk ${i + 1}, GB`}
                value={disk.sizeBytes / 1e9}
                onChange={(n) => put(i, { sizeBytes: Math.round((n ?? 0) * 1e9) })}
              />
              {faults[`disks.${i}.sizeBytes`] && (
                <span className="field-fault" role="alert">
                  {faults[`disks.${i}.sizeBytes`]}
                </span>
              )}
            </td>
            <td>
              <Select
                aria-label={`Controller of disk ${i + 1}`}
                style={{ width: 122 }}
                value={disk.controller}
                options={asOptions(diskControllers) as { value: Disk['controller']; label: string }[]}
                onChange={(controller) => put(i, { controller })}
              />
            </td>
            <td>
              <Select
                aria-label={`Space of disk ${i + 1}`}
                style={{ width: 76 }}
                value={disk.thin ? 'thin' : 'thick'}
                options={asOptions(['thin', 'thick'])}
                onChange={(space) => put(i, { thin: space === 'thin' })}
              />
            </td>
            <td>
              {i > 0 && (
                <button
                  type="button"
                  className="plain-button"
                  aria-label={`Take away disk ${i + 1}`}
                  onClick={() => onChange(disks.filter((_disk, n) => n !== i))}
                >
                  ×
                </button>
              )}
            </td>
          </tr>
        ))}
        <tr>
          <td colSpan={5}>
            <Button size="small" disabled={disks.length >= 8} onClick={() => onChange([...disks, extraDisk])}>
              Add a disk
            </Button>
          </td>
        </tr>
      </tbody>
    </table>
  );
}

const extraDisk = leanHardware.disks[0] as Disk;
