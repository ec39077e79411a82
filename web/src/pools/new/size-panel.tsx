/** Sized from what people used: for each size how many it holds, how many hosts that makes, and what they cost. */
import { Button, InputNumber, Select } from 'antd';
import { useState } from 'react';
import type { SizeAnswer } from '@vatline/core/pool/size-choice';
import { estateApi } from '../../api/estate.ts';
import { poolsApi } from '../../api/pools.ts';
import { Field } from '../../parts/field.tsx';
import { FileButton } from '../../parts/file-button.tsx';
import { count, plural } from '../../parts/format.ts';
import { How } from '../../parts/how.tsx';
import { UnreadFile } from '../../parts/unread-file.tsx';
import { useSizeChoice } from '../../parts/use-sizing.ts';
import type { PoolForm } from './pool-form.ts';

/** Memory of a system with nobody signed in. */
const BASE_BYTES = 2.5e9;

export function SizePanel({ form: { draft, set } }: { form: PoolForm }) {
  const { data: estate } = estateApi.useEstateQuery({});
  const [people, setPeople] = useState<number | null>(100);
  const [ask, { isFetching }] = estateApi.useLazyAssessmentQuery();
  const chosen = draft.places?.[0]?.site;
  const sites = estate?.sites.filter((site) => chosen === undefined || site.name === chosen) ?? [];
  const sizes = [...new Map(sites.flatMap((site) => site.sizes).map((one) => [one.name, one])).values()];
  const sessionLimit = draft.kind === 'dedicated' ? 1 : (draft.sessionLimit ?? 1);
  const sizing = useSizeChoice({
    sizes,
    people: people ?? 0,
    sessionLimit,
    baseMemoryBytes: BASE_BYTES,
    seed: 'pool',
  });
  const fromEstate = async () => {
    const { data } = await ask({});
    if (data) await sizing.read('measured by the practice estate', data.csv);
  };
  return (
    <>
      <div className="row">
        <FileButton accept=".csv,text/csv" onFile={(file) => void sizing.read(file.name, file)}>
          Read a recording
        </FileButton>
        <Button loading={isFetching || sizing.busy} onClick={() => void fromEstate()}>
          Take the practice estate’s
        </Button>
        <span className="quiet">
          user, time, cpu (fraction of a core), memory (bytes); read here and sent nowhere
        </span>
      </div>
      <UnreadFile name="The recording" faults={sizing.faults} />
      {sizing.facts && (
        <>
          <div className="fields" style={{ marginTop: 8 }}>
            <Field label="People at the busiest moment">
              <InputNumber min={1} max={100_000} value={people} onChange={setPeople} />
            </Field>
            <Field label="As many as come to">
              <PeakOfPool take={setPeople} />
            </Field>
          </div>
          {sizing.answers && (
            <SizeTable
              answers={sizing.answers}
              chosen={draft.size}
              take={({ name, hosts }) => set({ size: name, count: hosts ?? draft.count })}
            />
          )}
          <p className="quiet small">
            {sizing.facts.name}: {count(sizing.facts.rows)} rows,{' '}
            {plural(sizing.facts.users, 'person', 'people')}, {plural(sizing.facts.days, 'day')}.{' '}
            <How
              rows={[
                [
                  'People a host',
                  'the most for whom the 95th percentile of 5,000 seeded draws finds 80 % of the cores and 90 % of the memory enough, at most the sessions a host',
                ],
                ['Hosts', 'people at the busiest moment ÷ people a host'],
                ['A month', 'hosts × price of an hour × 730, always on'],
                ['System', '2.5 GB of memory with nobody signed in'],
              ]}
            />
          </p>
        </>
      )}
    </>
  );
}

/** The busiest hour of another pool. */
function PeakOfPool({ take }: { take: (people: number) => void }) {
  const { data: pools = [] } = poolsApi.usePoolHealthQuery({});
  return (
    <Select
      aria-label="As many as come to"
      placeholder="another pool"
      value={null}
      onChange={(peak: number | null) => peak !== null && take(peak)}
      options={pools.map((pool) => ({
        value: Math.max(1, ...pool.expected),
        label: `${pool.name}, ${count(Math.max(0, ...pool.expected))}`,
      }))}
    />
  );
}

interface Table {
  readonly answers: readonly SizeAnswer[];
  readonly chosen: string | undefined;
  take(answer: SizeAnswer): void;
}

function SizeTable({ answers, chosen, take }: Table) {
  const own = answers.find((answer) => answer.name === chosen);
  return (
    <>
      <table className="table kinds-table" aria-label="Sizes">
        <thead>
          <tr>
            <th>Size</th>
            <th className="number">People a host</th>
            <th>Runs out first</th>
            <th className="number">Hosts</th>
            <th className="number">A month</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {answers.map((answer) => (
            <tr key={answer.name} className={answer.name === chosen ? 'chosen' : ''}>
              <td>{answer.name}</td>
              <td className="number">{count(answer.sessionsHeld)}</td>
              <td>{answer.binds === 'neither' ? 'nothing' : answer.binds}</td>
              <td className="number">{answer.hosts === null ? 'none' : count(answer.hosts)}</td>
              <td className="number">
                {answer.pricePerMonth === null ? '' : count(Math.round(answer.pricePerMonth))}
              </td>
              <td className="number">
                {answer.hosts !== null && (
                  <Button size="small" onClick={() => take(answer)}>
                    Take it
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {own && own.oversized.length > 0 && (
        <p className="attention">
          {own.name} has over one and a half times the {own.oversized.join(' and the ')} that its sessions
          need.
        </p>
      )}
    </>
  );
}
