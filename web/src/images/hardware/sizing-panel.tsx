/** How large the machine should be: from what people's desktops used before. */
import { Button, InputNumber } from 'antd';
import { useState } from 'react';
import type { LineDetail } from '@vatline/contract/image';
import { estateApi } from '../../api/estate.ts';
import { poolsApi } from '../../api/pools.ts';
import { Field } from '../../parts/field.tsx';
import { FileButton } from '../../parts/file-button.tsx';
import { count, plural } from '../../parts/format.ts';
import { How } from '../../parts/how.tsx';
import { DrawStrip } from './draw-strip.tsx';
import type { LinePlan } from '../line-plan.ts';
import type { DrawnAdvice } from '../../parts/sizing-worker.ts';
import { UnreadFile } from '../../parts/unread-file.tsx';
import { useSizing } from '../../parts/use-sizing.ts';

const gigabytes = (bytes: number) => `${Math.round(bytes / 1e8) / 10} GB`;
const cores = (n: number) => `${Math.round(n * 10) / 10}`;

export function SizingPanel({ line, plan }: { line: LineDetail; plan: LinePlan }) {
  const { data: pools } = poolsApi.usePoolsQuery({});
  const own = (pools ?? []).filter((pool) => pool.lineId === line.id);
  const most = Math.max(1, ...own.map((pool) => pool.sessionLimit));
  const [wanted, setWanted] = useState<number | undefined>();
  const [base, setBase] = useState(2.5);
  const [ask, { isFetching }] = estateApi.useLazyAssessmentQuery();
  const { processors, memoryBytes } = plan.hardware;
  const sessions = wanted ?? most;
  const sizing = useSizing({
    processors,
    memoryBytes,
    baseMemoryBytes: base * 1e9,
    sessions,
    seed: line.id,
  });
  const fromEstate = async () => {
    const { data } = await ask({});
    if (data) await sizing.read('measured by the practice estate', data.csv);
  };
  return (
    <section aria-label="How large should it be?" className="sizing">
      <h2 className="section-title">How large should it be?</h2>
      <p className="quiet">
        From a recording of what people used: a CSV with the columns user, time, cpu (fraction of a core),
        memory (bytes). It is read here and sent nowhere.
      </p>
      <div className="row" style={{ marginBottom: 10 }}>
        <FileButton accept=".csv,text/csv" onFile={(file) => void sizing.read(file.name, file)}>
          Read a recording
        </FileButton>
        <Button loading={isFetching || sizing.busy} onClick={() => void fromEstate()}>
          Take the practice estate&apos;s
        </Button>
      </div>
      <UnreadFile name="The recording" faults={sizing.faults} />
      {sizing.facts && (
        <>
          <div className="fields">
            <Field
              label="People at once on a host"
              hint={own.length > 0 ? `as ${own.map((pool) => pool.name).join(', ')} allow` : undefined}
            >
              <InputNumber min={1} max={250} value={sessions} onChange={(n) => n !== null && setWanted(n)} />
            </Field>
            <Field label="Memory of the system, GB">
              <InputNumber min={0} max={64} value={base} onChange={(n) => setBase(n ?? 0)} />
            </Field>
          </div>
          {sizing.advice && (
            <Advice advice={sizing.advice} plan={plan} sessions={sessions} baseBytes={base * 1e9} />
          )}
          <p className="quiet small">
            {sizing.facts.name}: {count(sizing.facts.rows)} rows,{' '}
            {plural(sizing.facts.users, 'person', 'people')}, {plural(sizing.facts.days, 'day')}.
          </p>
        </>
      )}
    </section>
  );
}

interface AdviceProps {
  readonly advice: DrawnAdvice;
  readonly plan: LinePlan;
  readonly sessions: number;
  readonly baseBytes: number;
}

function Advice({ advice, plan, sessions, baseBytes }: AdviceProps) {
  const { hardware } = plan;
  const fits = hardware.processors === advice.processors && hardware.memoryBytes === advice.memoryBytes;
  const people = plural(sessions, 'person', 'people');
  return (
    <div role="status" aria-label="Advice on size">
      <p className="figure">
        {people} {sessions === 1 ? 'needs' : 'need'} {plural(advice.processors, 'processor')} and{' '}
        {gigabytes(advice.memoryBytes)}.{' '}
        <How
          rows={[
            ['Draws', '5,000, each of a time of day and of that many people measured at it, seeded'],
            [
              'Processors',
              `the 95th percentile of what they use together, ${cores(advice.demand.cpu)} cores, at most 80 % of all`,
            ],
            [
              'Memory',
              `the 95th percentile, ${gigabytes(advice.demand.memoryBytes)}, and ${gigabytes(baseBytes)} for the system, at most 90 % of all`,
            ],
          ]}
        />
      </p>
      <p>
        This machine holds {plural(advice.sessionsHeld, 'person', 'people')};{' '}
        {advice.binds === 'neither'
          ? 'nothing runs out'
          : `${advice.binds} ${advice.binds === 'processors' ? 'run' : 'runs'} out first`}
        .
        {advice.oversized.length > 0 && (
          <b className="attention">
            {' '}
            It has over one and a half times the {advice.oversized.join(' and the ')} it needs.
          </b>
        )}
      </p>
      <DrawStrip
        label="Cores at once"
        histogram={advice.cpu}
        p95={advice.demand.cpu}
        limit={hardware.processors * 0.8}
        words={cores}
      />
      <DrawStrip
        label="Memory at once"
        histogram={advice.memory}
        p95={advice.demand.memoryBytes}
        limit={Math.max(0, hardware.memoryBytes * 0.9 - baseBytes)}
        words={gigabytes}
      />
      {!fits && (
        <Button
          onClick={() =>
            plan.change(plan.steps, {
              ...hardware,
              processors: advice.processors,
              memoryBytes: advice.memoryBytes,
            })
          }
        >
          Give it {plural(advice.processors, 'processor')} and {gigabytes(advice.memoryBytes)}
        </Button>
      )}
    </div>
  );
}
