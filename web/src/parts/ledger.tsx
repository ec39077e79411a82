/** The ledger: every object an action creates, in which system, and how it stands. */
import './ledger.css';
import { useState } from 'react';
import { ledgerStates, type JobDetail, type LedgerRow } from '@vatline/contract/job';
import { jobsApi } from '../api/jobs.ts';
import { Chips } from './chips.tsx';
import { useEstateTime } from '../shell/clock.ts';
import { count, minutes, time } from './format.ts';
import { PagedList } from './paged-list.tsx';

export function LedgerTable({ job }: { job: Pick<JobDetail, 'id' | 'ledger'> }) {
  const [only, setOnly] = useState<LedgerRow['state'] | undefined>();
  const list = jobsApi.useLedgerInfiniteQuery({
    params: { id: job.id },
    query: only === undefined ? {} : { state: only },
  });
  return (
    <section aria-label="ledger">
      <h2 className="section-title">Ledger</h2>
      <Chips
        label="Which rows"
        options={ledgerStates
          .filter((state) => job.ledger[state] !== undefined)
          .map((state) => [state, `${state} ${count(job.ledger[state] ?? 0)}`])}
        chosen={only}
        onPress={(state) => setOnly(only === state ? undefined : state)}
      />
      <PagedList
        list={list}
        rowHeight={30}
        maxHeight={260}
        none={<p className="quiet">None of these.</p>}
        row={(row) => (
          <div className="ledger-row">
            <span className="mono">{row.object}</span>
            <span>{row.system}</span>
            <span className={row.state === 'failed' ? 'trouble' : row.state === 'made' ? 'good' : 'quiet'}>
              {row.state}
            </span>
            {row.waits ? (
              <Waits waits={row.waits} />
            ) : (
              <span className="mono quiet" title={row.detail || row.key}>
                {row.detail || row.key}
              </span>
            )}
          </div>
        )}
      />
    </section>
  );
}

/** Since when an outside system is waited for, and for how long yet. */
function Waits({ waits }: { waits: NonNullable<LedgerRow['waits']> }) {
  const { now, zone } = useEstateTime();
  const left = Math.max(0, (waits.until - now) / 60_000);
  return (
    <span className="attention">
      waited for since {time(waits.since, zone)}, given up at {time(waits.until, zone)}, in {minutes(left)}
    </span>
  );
}
