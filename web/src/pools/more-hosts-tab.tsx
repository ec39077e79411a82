/** More hosts for a pool that is there: what they are called, whether they fit, and making them. */
import './readiness/readiness.css';
import { Button, Checkbox, InputNumber } from 'antd';
import { useDeferredValue, useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import type { HostsPreview } from '@vatline/contract/pool/more-hosts';
import { poolsApi } from '../api/pools.ts';
import { faultAt, problemOf } from '../api/problem.ts';
import { chassisApi } from '../api/chassis.ts';
import { Field, ProblemNote } from '../parts/field.tsx';
import { minutes, plural } from '../parts/format.ts';
import { FitPanel } from './new/fit-panel.tsx';
import { NamesPanel } from './new/names-panel.tsx';
import { SlotTable } from './chassis/slot-table.tsx';
import { PoolTabs } from './pool-tabs.tsx';

export function MoreHostsTab({ pool }: { pool: PoolDetail }) {
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const { chassis } = pool.settings;
  const linked = chassis === null ? [] : slotsIn(search.get('slots'));
  const [body, setBody] = useState({
    count: Math.max(1, linked.length),
    isAnyway: false,
    isHeld: false,
    slots: linked,
  });
  const asked = useDeferredValue(body);
  const { data, error } = poolsApi.usePreviewHostsQuery({ params: { id: pool.id }, body: asked });
  const [add, adding] = poolsApi.useAddHostsMutation();
  const refused = problemOf(adding.error);
  const unread = problemOf(error);
  const preview = unread ? undefined : data;
  const faults = preview?.faults.filter((fault) => fault.path !== 'count') ?? [];
  const make = async () => {
    const result = await add({ params: { id: pool.id }, body });
    if (!('error' in result)) void navigate(`/pools/${pool.id}`);
  };
  return (
    <div className="bench-columns readiness more-hosts">
      <section className="work" aria-label={`More hosts of ${pool.name}`}>
        <h1 className="answer">{headline(pool, body.count, preview)}</h1>
        <p className="under-answer">
          They are made as the pool is: its size, disks, unit and limits, and the blend that it has now.
        </p>
        <PoolTabs pool={pool} />
        {chassis !== null && (
          <MachinePicker
            name={chassis}
            chosen={body.slots}
            choose={(slots) => setBody({ ...body, slots, count: Math.max(1, slots.length) })}
          />
        )}
        <div className="fields">
          <Field
            label="Hosts more"
            fault={
              preview?.faults.find((fault) => fault.path === 'count')?.message ??
              faultAt(unread, 'count') ??
              faultAt(refused, 'count')
            }
          >
            <InputNumber
              min={1}
              max={10_000}
              // Nothing typed is no number, and not one that is typed behind.
              value={body.count || null}
              disabled={chassis !== null}
              onChange={(count) => setBody({ ...body, count: count ?? 0 })}
            />
          </Field>
          <div className="wide row">
            <Checkbox
              checked={body.isHeld}
              onChange={(event) => setBody({ ...body, isHeld: event.target.checked })}
            >
              Hold them back until somebody lets people in
            </Checkbox>
            <Checkbox
              checked={body.isAnyway}
              onChange={(event) => setBody({ ...body, isAnyway: event.target.checked })}
            >
              Make them although not all fit
            </Checkbox>
          </div>
        </div>
        {faults.map((fault) => (
          <p key={fault.path} className="field-fault" role="alert">
            {fault.message}
          </p>
        ))}
        <ProblemNote problem={unread} shown={['count']} />
        <ProblemNote problem={refused} shown={['count']} />
        <Button
          type="primary"
          loading={adding.isLoading}
          disabled={!preview || preview.faults.length > 0 || pool.activeJob !== null}
          onClick={() => void make()}
        >
          Make {plural(body.count, 'host')} more
        </Button>
        {pool.activeJob && <p className="quiet">Other work on {pool.name} has to end first.</p>}
      </section>
      <aside className="evidence" aria-label="What they would be">
        {preview && (
          <>
            <FitPanel preview={preview} />
            <NamesPanel preview={preview} fillGaps />
          </>
        )}
      </aside>
    </div>
  );
}

/** Slots as an address has them: those that are numbers. */
function slotsIn(text: string | null): number[] {
  return (text ?? '')
    .split(',')
    .map(Number)
    .filter((slot) => Number.isInteger(slot) && slot > 0)
    .slice(0, 1_000);
}

interface Picker {
  readonly name: string;
  readonly chosen: readonly number[];
  choose(slots: number[]): void;
}

function MachinePicker({ name, chosen, choose }: Picker) {
  const { data } = chassisApi.useChassisQuery({});
  const chassis = data?.find((one) => one.name === name);
  if (!chassis) return null;
  return (
    <>
      <h2 className="section-title">Machines of {name}</h2>
      <SlotTable chassis={chassis} chosen={chosen} choose={choose} />
    </>
  );
}

function headline(pool: PoolDetail, n: number, preview: HostsPreview | undefined): string {
  const fit = preview?.fit;
  if (!fit) return `More hosts for ${pool.name}`;
  if (!fit.fits)
    return `${plural(n, 'host')} more do not fit: ${fit.largest === 0 ? 'not one does' : `${fit.largest} do`}.`;
  return `${plural(n, 'host')} more fit${n === 1 ? 's' : ''}, made in about ${minutes(preview.minutes)} (9 in 10: ${minutes(preview.minutesAtMost)}).`;
}
