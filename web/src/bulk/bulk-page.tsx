/** Many packages at once: what to do, with which, and what came of each. */
import '../packages/packages.css';
import './bulk.css';
import { useState } from 'react';
import type { Bulk, BulkRequest } from '@vatline/contract/bulk';
import { bulkApi } from '../api/bulk.ts';
import { problemOf } from '../api/problem.ts';
import { Station } from '../shell/station.tsx';
import { Chips } from '../parts/chips.tsx';
import { ProblemNote } from '../parts/field.tsx';
import { JobCard } from '../parts/job.tsx';
import { plural } from '../parts/format.ts';
import { CapturePackage, usePackageRack } from '../packages/packages-page.tsx';
import { FromList } from './from-list.tsx';
import { OfVersions } from './of-versions.tsx';
import { Payloads } from './payloads.tsx';

const actions = [
  ['draft', 'Drafts from a list'],
  ['payloads', 'Captures of payloads'],
  ['sign', 'Sign again'],
  ['convert', 'Convert'],
  ['assign', 'Assign from a list'],
] as const;
type Action = (typeof actions)[number][0];

export function BulkPage() {
  const { items } = usePackageRack();
  const [action, setAction] = useState<Action>('draft');
  const { data: newest } = bulkApi.useBulkQuery({});
  const [begin, { error, isLoading }] = bulkApi.useBeginBulkMutation();
  const go = (body: BulkRequest) => void begin({ body });
  const isBusy = isLoading || newest?.job.state === 'running' || newest?.job.state === 'waiting';
  return (
    <Station items={items} action={<CapturePackage />}>
      <section className="work" aria-label="Many at once">
        <h1 className="answer">{headline(newest)}</h1>
        <p className="under-answer">Each row has its own result; one that is refused holds up no other.</p>
        <Chips
          label="What to do"
          style={{ marginBottom: 12 }}
          options={actions}
          chosen={action}
          onPress={setAction}
        />
        {(action === 'draft' || action === 'assign') && (
          <FromList key={action} action={action} isBusy={isBusy} onBegin={go} />
        )}
        {(action === 'sign' || action === 'convert') && (
          <OfVersions key={action} action={action} isBusy={isBusy} onBegin={go} />
        )}
        {action === 'payloads' && <Payloads />}
        <ProblemNote problem={problemOf(error)} />
        {newest && action !== 'payloads' && <Results bulk={newest} />}
      </section>
    </Station>
  );
}

function headline(bulk: Bulk | null | undefined): string {
  if (!bulk) return 'What is to be done with many packages?';
  const of = (state: string) => bulk.rows.filter((row) => row.state === state).length;
  const waiting = of('waiting');
  const first = `${bulk.job.title.split(':')[0] ?? ''}: ${of('done')} of ${plural(bulk.rows.length, 'row')} done, ${of('refused')} refused`;
  return waiting > 0 && bulk.job.state === 'running' ? `${first}, ${waiting} to go.` : `${first}.`;
}

function Results({ bulk }: { bulk: Bulk }) {
  const tone = { waiting: 'quiet', done: 'good', refused: 'trouble' } as const;
  return (
    <>
      <h2 className="section-title">What came of each</h2>
      {bulk.job.state !== 'done' && <JobCard job={bulk.job} open={false} />}
      <table className="table">
        <thead>
          <tr>
            <th>Row</th>
            <th>State</th>
            <th>Result</th>
          </tr>
        </thead>
        <tbody>
          {bulk.rows.map((row) => (
            <tr key={row.number}>
              <td>{row.what}</td>
              <td className={tone[row.state]}>{row.state}</td>
              <td>{row.result}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
