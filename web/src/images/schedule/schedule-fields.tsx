/** The rules of a cut schedule, and the rollouts that follow. */
import { Button, Checkbox, Input, InputNumber, Select } from 'antd';
import type { CutScheduleRequest, RingRequest } from '@vatline/contract/cut-schedule';
import type { LineDetail } from '@vatline/contract/image';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import { formatWallTime, parseWallTime } from '@vatline/core/time/zone';
import { workTime } from '@vatline/core/rollout/usual-work';
import { poolsApi } from '../../api/pools.ts';
import { Field } from '../../parts/field.tsx';
import { RulePicker } from '../../parts/rule-picker.tsx';

interface Props {
  readonly line: LineDetail;
  readonly schedule: CutScheduleRequest;
  readonly onChange: (schedule: CutScheduleRequest) => void;
  readonly fault: (path: string) => string | undefined;
}

const cutRules = [
  { value: 'FREQ=WEEKLY;BYDAY=SA', label: 'on Saturdays' },
  { value: 'FREQ=WEEKLY;BYDAY=SU', label: 'on Sundays' },
  { value: 'FREQ=WEEKLY;BYDAY=WE', label: 'on Wednesdays' },
  { value: 'FREQ=MONTHLY;BYDAY=2SA', label: 'on the second Saturday of a month' },
  { value: 'FREQ=DAILY', label: 'every day' },
];
const rolloutRules = [
  { value: 'FREQ=WEEKLY;BYDAY=SU', label: 'on Sundays' },
  { value: 'FREQ=WEEKLY;BYDAY=SA,SU', label: 'at weekends' },
  { value: 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR', label: 'Monday to Friday' },
  { value: 'FREQ=DAILY', label: 'every night' },
];
const rowFields = [
  'poolId',
  'window.rule',
  'window.start',
  'window.end',
  'batch',
  'maxUnavailable',
  'drainLimitMinutes',
  'reserve',
];

/** Paths of faults that stand beside their fields. */
export function schedulePaths(schedule: CutScheduleRequest): string[] {
  const rows = schedule.rollouts.flatMap((_row, i) => rowFields.map((field) => `rollouts.${i}.${field}`));
  return ['rule', 'at', 'zone', 'waitHours', ...rows];
}

export function ScheduleFields({ line, schedule, onChange, fault }: Props) {
  const set = (change: Partial<CutScheduleRequest>) => onChange({ ...schedule, ...change });
  const check = (label: string, field: 'takeUpdates' | 'onlyIfChanged' | 'leaveRunning') => (
    <Checkbox checked={schedule[field]} onChange={(event) => set({ [field]: event.target.checked })}>
      {label}
    </Checkbox>
  );
  return (
    <>
      <h3 className="section-title">The cut</h3>
      <div className="schedule-row">
        <RulePicker
          label="Cut it"
          rule={schedule.rule}
          usual={cutRules}
          fault={fault('rule')}
          onChange={(rule) => set({ rule })}
        />
        <Field label={`At, ${schedule.zone}`} fault={fault('at') ?? fault('zone')}>
          <Input value={schedule.at} onChange={(event) => set({ at: event.target.value })} />
        </Field>
        <Field label="Then wait, h" fault={fault('waitHours')}>
          <InputNumber value={schedule.waitHours} onChange={(n) => set({ waitHours: n ?? 0 })} />
        </Field>
      </div>
      <div className="stack">
        {check('Take the newest updates first', 'takeUpdates')}
        {check('Only if recipe, hardware or updates have changed', 'onlyIfChanged')}
        {check('Run the build machine again afterwards', 'leaveRunning')}
      </div>
      <RingRows line={line} schedule={schedule} set={set} fault={fault} />
    </>
  );
}

/** A quarter of the pool at a time, or as many more as it takes to be done within the window. */
function usualBatch({ hosts, clone }: PoolSummary, windowMinutes: number): number {
  const waves = Math.max(1, Math.floor(windowMinutes / workTime(clone, []).p90Minutes));
  return Math.max(1, Math.ceil(hosts / Math.min(4, waves)));
}

/** The next pool in the order, in a window behind the last one. */
function nextRing(pool: PoolSummary, last: RingRequest | undefined): RingRequest {
  const minutes = last ? 120 : 60;
  const start = (last && parseWallTime(last.window.end)) ?? 120;
  const batch = usualBatch(pool, minutes);
  return {
    poolId: pool.id,
    window: {
      rule: last?.window.rule ?? 'FREQ=WEEKLY;BYDAY=SU',
      start: formatWallTime(start),
      end: formatWallTime(start + minutes),
    },
    batch,
    maxUnavailable: batch,
    drainLimitMinutes: 30,
    reserve: null,
  };
}

interface RowsProps extends Pick<Props, 'line' | 'schedule' | 'fault'> {
  readonly set: (change: Partial<CutScheduleRequest>) => void;
}

function RingRows({ line, schedule, set, fault }: RowsProps) {
  const { data: pools = [] } = poolsApi.usePoolsQuery({});
  const own = pools.filter((pool) => pool.lineId === line.id);
  const { rollouts } = schedule;
  // The smallest first: it is the pilot.
  const [free] = own
    .filter((pool) => !rollouts.some((row) => row.poolId === pool.id))
    .sort((a, b) => a.hosts - b.hosts);
  return (
    <>
      <h3 className="section-title">The rollouts that follow, first to last</h3>
      {rollouts.map((row, i) => (
        <RingRow
          key={i}
          number={i + 1}
          ring={row}
          pools={own}
          fault={(field) => fault(`rollouts.${i}.${field}`)}
          onChange={(change) =>
            set({ rollouts: rollouts.map((one, n) => (n === i ? { ...one, ...change } : one)) })
          }
          onTakeOut={() => set({ rollouts: rollouts.filter((_row, n) => n !== i) })}
        />
      ))}
      {own.length === 0 ? (
        <p className="quiet">No pool is made from this line yet.</p>
      ) : (
        <Button
          size="small"
          disabled={!free}
          onClick={() => free && set({ rollouts: [...rollouts, nextRing(free, rollouts.at(-1))] })}
        >
          {rollouts.length === 0 ? 'Add the pilot' : 'Add the next pool'}
        </Button>
      )}
    </>
  );
}

interface RowProps {
  /** Place in the order, from 1. */
  readonly number: number;
  readonly ring: RingRequest;
  readonly pools: readonly PoolSummary[];
  readonly fault: (field: string) => string | undefined;
  readonly onChange: (change: Partial<RingRequest>) => void;
  readonly onTakeOut: () => void;
}

function RingRow({ number, ring, pools, fault, onChange, onTakeOut }: RowProps) {
  const { window } = ring;
  const wall = (label: string, field: 'start' | 'end') => (
    <Field label={label} fault={fault(`window.${field}`)}>
      <Input
        value={window[field]}
        onChange={(event) => onChange({ window: { ...window, [field]: event.target.value } })}
      />
    </Field>
  );
  return (
    <div className="schedule-row" role="group" aria-label={`Rollout ${number}`}>
      <Field label={`Pool ${number}`} fault={fault('poolId')}>
        <Select
          aria-label={`Pool ${number}`}
          value={ring.poolId || null}
          options={pools.map((pool) => ({ value: pool.id, label: `${pool.name}, ${pool.hosts}` }))}
          onChange={(poolId) => poolId && onChange({ poolId })}
        />
      </Field>
      <RulePicker
        label="When"
        rule={window.rule}
        usual={rolloutRules}
        fault={fault('window.rule')}
        onChange={(rule) => onChange({ window: { ...window, rule } })}
      />
      {wall('From', 'start')}
      {wall('Until', 'end')}
      <Field label="Hosts at a time" fault={fault('batch') ?? fault('maxUnavailable')}>
        <InputNumber
          value={ring.batch}
          onChange={(n) => onChange({ batch: n ?? 0, maxUnavailable: Math.max(n ?? 0, ring.maxUnavailable) })}
        />
      </Field>
      <button type="button" className="plain-button" onClick={onTakeOut}>
        Take out
      </button>
    </div>
  );
}
