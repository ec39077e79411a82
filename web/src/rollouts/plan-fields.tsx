/** The fields of a plan: contents, window, pace, seats. */
import { Button, Input, InputNumber, Select, Slider, Switch } from 'antd';
import type { FailureRule } from '@vatline/core/rollout/failure-rule';
import { noticeText } from '@vatline/core/rollout/notice';
import { ruleInWords } from '@vatline/core/time/rule-in-words';
import { windowFromNow } from '@vatline/core/rollout/window-from-now';
import { canBeRolledOut } from '@vatline/core/image/version-state';
import type { PackageSummary } from '@vatline/contract/package';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import type { Plan, RolloutRequest } from '@vatline/contract/rollout';
import { imagesApi } from '../api/images.ts';
import { DyeChip } from '../parts/dye-chip.tsx';
import { Field } from '../parts/field.tsx';
import { BlendChecks } from './blends/blend-checks.tsx';
import { HostChoice } from './host-choice.tsx';
import { ClosedDaysField } from './closed-days-field.tsx';
import { useEstateTime } from '../shell/clock.ts';
import { useAllPackages } from '../parts/all-packages.ts';

/** Faults at these paths stand beside their fields. */
export const planFieldPaths = [
  'imageVersionId',
  'window.rule',
  'window.start',
  'window.end',
  'zone',
  'calendarIds',
  'batch',
  'maxUnavailable',
  'drainLimitMinutes',
  'reserve',
  'stop.failures',
  'stop.share',
  'notice.text',
  'notice.minutesBefore',
];

const rules = [
  { value: 'FREQ=DAILY', label: 'every night' },
  { value: 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR', label: 'Monday to Friday' },
  { value: 'FREQ=WEEKLY;BYDAY=SA,SU', label: 'at weekends' },
  { value: 'FREQ=WEEKLY;BYDAY=SU', label: 'on Sundays' },
];

/** A rule that is none of the usual ones is one of the choices all the same. */
function withRule(rule: string) {
  return rules.some((one) => one.value === rule)
    ? rules
    : [...rules, { value: rule, label: ruleInWords(rule) }];
}

interface Props {
  readonly pool: PoolDetail;
  readonly request: RolloutRequest;
  /** When hosts begin to attach the packages; null where that is not known. */
  readonly attachesAt: number | null;
  readonly onChange: (request: RolloutRequest) => void;
  readonly fault: (path: string) => string | undefined;
}

export function PlanFields(props: Props) {
  return (
    <>
      <Contents {...props} />
      <HostChoice
        pool={props.pool}
        choice={props.request}
        fault={props.fault}
        onChange={(choice) => props.onChange(withinChoice({ ...props.request, ...choice }))}
      />
      <PaceFields
        plan={props.request}
        hosts={props.request.onlyHosts.length || props.pool.hosts}
        onChange={props.onChange}
        fault={props.fault}
      />
    </>
  );
}

/** Of a few hosts no more are changed at a time than there are. */
function withinChoice(request: RolloutRequest): RolloutRequest {
  const most = request.onlyHosts.length;
  if (most === 0) return request;
  const { batch, maxUnavailable } = request;
  return { ...request, batch: Math.min(batch, most), maxUnavailable: Math.min(maxUnavailable, most) };
}

function Contents({ pool, request, attachesAt, onChange, fault }: Props) {
  const { data: lines = [] } = imagesApi.useLinesQuery({});
  const packages = useAllPackages() ?? [];
  const set = (change: Partial<RolloutRequest>) => onChange({ ...request, ...change });
  const line = lines.find((row) => row.id === pool.lineId);
  return (
    <>
      <h2>What it is to run</h2>
      <Field label="Image version" fault={fault('imageVersionId')}>
        <Select
          aria-label="Image version"
          value={request.imageVersionId || null}
          onChange={(id) => id && set({ imageVersionId: id })}
          options={
            line?.versions
              .filter((v) => canBeRolledOut(v.state))
              .map((v) => ({
                value: v.id,
                label: <DyeChip name={v.dye} number={v.number} note={v.state} />,
              })) ?? []
          }
        />
      </Field>
      <Field
        label="Packages attached"
        fault={request.packageVersionIds.map((_id, i) => fault(`packageVersionIds.${i}`)).find(Boolean)}
        hint="another version takes the place of the one chosen, unless both run side by side"
      >
        <Select
          mode="multiple"
          aria-label="Packages attached"
          optionFilterProp="label"
          maxTagCount="responsive"
          value={request.packageVersionIds}
          onChange={(ids) => set({ packageVersionIds: oneVersionEach(ids, packages) })}
          options={packages.flatMap((row) =>
            row.versions
              .filter((v) => v.state === 'live' || request.packageVersionIds.includes(v.id))
              .map((v) => ({ value: v.id, label: `${v.name} ${v.version}` })),
          )}
        />
      </Field>
      <BlendChecks
        poolId={pool.id}
        imageVersionId={request.imageVersionId}
        packageVersionIds={request.packageVersionIds}
        at={attachesAt}
      />
    </>
  );
}

interface PaceProps<P extends Plan> {
  readonly plan: P;
  /** That it is for; as far as sliders go. */
  readonly hosts: number;
  readonly onChange: (plan: P) => void;
  readonly fault: (path: string) => string | undefined;
}

/** When hosts are worked on, and how fast: what may be changed as well while it runs. */
export function PaceFields<P extends Plan>(props: PaceProps<P>) {
  return (
    <>
      <When {...props} />
      <Pace {...props} />
      <Telling {...props} />
    </>
  );
}

function When<P extends Plan>({ plan, onChange, fault }: PaceProps<P>) {
  const { now } = useEstateTime();
  const setWindow = (change: Partial<Plan['window']>) =>
    onChange({ ...plan, window: { ...plan.window, ...change } });
  const wall = (label: string, field: 'start' | 'end') => (
    <Field label={label} fault={fault(`window.${field}`)}>
      <Input value={plan.window[field]} onChange={(event) => setWindow({ [field]: event.target.value })} />
    </Field>
  );
  return (
    <>
      <h2>When</h2>
      <Field label={`Nights, ${plan.zone}`} fault={fault('window.rule') ?? fault('zone')}>
        <Select
          aria-label="Nights"
          value={plan.window.rule}
          options={withRule(plan.window.rule)}
          onChange={(rule) => setWindow({ rule })}
        />
      </Field>
      <div className="fields">
        {wall('From', 'start')}
        {wall('Until', 'end')}
      </div>
      <Button
        size="small"
        style={{ marginBottom: 10 }}
        disabled={now === 0}
        onClick={() => onChange({ ...plan, window: windowFromNow(plan.zone, now), calendarIds: [] })}
      >
        Begin now
      </Button>
      <ClosedDaysField
        chosen={plan.calendarIds}
        onChange={(calendarIds) => onChange({ ...plan, calendarIds })}
        fault={
          fault('calendarIds') ?? plan.calendarIds.map((_id, i) => fault(`calendarIds.${i}`)).find(Boolean)
        }
      />
    </>
  );
}

function Pace<P extends Plan>({ plan, hosts, onChange, fault }: PaceProps<P>) {
  const set = (change: Partial<Plan>) => onChange({ ...plan, ...change });
  const whole = (label: string, field: 'batch' | 'maxUnavailable') => (
    <Field label={label} fault={fault(field)}>
      <InputNumber value={plan[field]} onChange={(n) => set({ [field]: n ?? 0 })} />
      <Sliding
        label={label}
        most={hosts}
        least={1}
        value={plan[field]}
        onSlide={(n) => set({ [field]: n })}
      />
    </Field>
  );
  return (
    <>
      <h2>How fast</h2>
      <div className="fields">
        {whole('Hosts at a time', 'batch')}
        {whole('At most out of service', 'maxUnavailable')}
        <Field label="Wait for sessions, min" fault={fault('drainLimitMinutes')}>
          <InputNumber value={plan.drainLimitMinutes} onChange={(n) => set({ drainLimitMinutes: n ?? 0 })} />
          <Sliding
            label="Wait for sessions"
            most={LONGEST_SLID}
            step={5}
            value={plan.drainLimitMinutes}
            onSlide={(drainLimitMinutes) => set({ drainLimitMinutes })}
          />
        </Field>
        <Field label="Seats kept above, %" fault={fault('reserve')}>
          <span className="row">
            <Switch
              size="small"
              aria-label="Keep seats"
              checked={plan.reserve !== null}
              onChange={(keep) => set({ reserve: keep ? 0.1 : null })}
            />
            <InputNumber
              style={{ flex: 1, minWidth: 0 }}
              aria-label="Seats above expected, percent"
              disabled={plan.reserve === null}
              value={plan.reserve === null ? null : Math.round(plan.reserve * 100)}
              onChange={(n) => set({ reserve: (n ?? 0) / 100 })}
            />
          </span>
          <Sliding
            label="Seats kept"
            most={MOST_SLID}
            disabled={plan.reserve === null}
            value={percentOf(plan.reserve) ?? 0}
            onSlide={(n) => set({ reserve: n / 100 })}
          />
        </Field>
        <Field label="Failed hosts that pause it" fault={fault('stop.failures')} hint="empty: no such number">
          <InputNumber
            min={1}
            value={plan.stop?.failures ?? null}
            onChange={(failures) => set({ stop: stopWith(plan.stop, { failures }) })}
          />
        </Field>
        <Field
          label="Or share failed above, %"
          fault={fault('stop.share')}
          hint={`once ${ENOUGH} hosts are through`}
        >
          <InputNumber
            min={0}
            max={100}
            value={percentOf(plan.stop?.share ?? null)}
            onChange={(n) => set({ stop: stopWith(plan.stop, { share: n === null ? null : n / 100 }) })}
          />
        </Field>
      </div>
    </>
  );
}

/** Minutes, and percent, as far as anybody looks for the right one; what is typed may be more. */
const LONGEST_SLID = 120;
const MOST_SLID = 50;

interface SlidingProps {
  readonly label: string;
  readonly least?: number;
  readonly most: number;
  readonly step?: number;
  readonly disabled?: boolean;
  readonly value: number;
  readonly onSlide: (value: number) => void;
}

/** Looks for the right number while the forecast follows. */
function Sliding({ label, least = 0, most, step = 1, disabled = false, value, onSlide }: SlidingProps) {
  return (
    <Slider
      className="sliding"
      ariaLabelForHandle={`${label}, by hand`}
      min={least}
      max={Math.max(most, least + 1)}
      step={step}
      disabled={disabled}
      value={Math.min(value, most)}
      onChange={onSlide}
    />
  );
}

/** What is told where nobody has thought of anything better. */
const firstNotice = {
  text: 'Please save your work: this desktop is renewed, and you are signed out in {minutes} minutes at the latest.',
  minutesBefore: 0,
};

function Telling<P extends Plan>({ plan, onChange, fault }: PaceProps<P>) {
  const { notice } = plan;
  const set = (to: Plan['notice']) => onChange({ ...plan, notice: to });
  return (
    <>
      <h2>Telling people</h2>
      <div className="row" style={{ marginBottom: 8 }}>
        <Switch
          size="small"
          aria-label="Tell people"
          checked={notice !== null}
          onChange={(tells) => set(tells ? firstNotice : null)}
        />
        <span>{notice ? 'whoever is on a host that drains' : 'nobody is told'}</span>
      </div>
      {notice && (
        <>
          <Field label="They are told" fault={fault('notice.text')} hint="{minutes}: how long there is">
            <Input.TextArea
              autoSize={{ minRows: 2, maxRows: 5 }}
              maxLength={500}
              value={notice.text}
              onChange={({ target }) => set({ ...notice, text: target.value })}
            />
          </Field>
          <Field
            label="And before each window, min"
            fault={fault('notice.minutesBefore')}
            hint="everybody on a host that waits; 0: nobody"
          >
            <InputNumber
              min={0}
              max={1_440}
              value={notice.minutesBefore}
              onChange={(n) => set({ ...notice, minutesBefore: n ?? 0 })}
            />
          </Field>
          <p className="quiet small">“{noticeText(notice, plan.drainLimitMinutes)}”</p>
        </>
      )}
    </>
  );
}

const percentOf = (share: number | null) => (share === null ? null : Math.round(share * 100));

/** Hosts of which one or two that failed are no share yet. */
const ENOUGH = 10;

/** A rule that says nothing is none. */
function stopWith(stop: Plan['stop'], change: Partial<FailureRule>): Plan['stop'] {
  const next = { failures: null, share: null, after: ENOUGH, ...stop, ...change };
  return next.failures === null && next.share === null ? null : next;
}

/** The version of each package that was chosen last; all that were of packages whose versions run side by side. */
function oneVersionEach(ids: readonly string[], packages: readonly PackageSummary[]): string[] {
  const packageOf = new Map(
    packages.flatMap((row) =>
      row.sideBySide ? [] : row.versions.map((version) => [version.id, row.id] as const),
    ),
  );
  const last = new Map(ids.map((id) => [packageOf.get(id) ?? id, id]));
  return ids.filter((id) => last.get(packageOf.get(id) ?? id) === id);
}
