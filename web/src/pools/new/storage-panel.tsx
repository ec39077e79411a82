/** The three kinds of clone side by side for this pool, and how its datastore fills until the next rebuild. */
import { useMemo } from 'react';
import { cloneKinds } from '@vatline/core/pool/clone-storage';
import type { StorageShown, StoredShown } from '@vatline/contract/pool/preview';
import type { PoolDraft } from '@vatline/contract/pool/kinds';
import { count, minutes, money, percent, plural, size } from '../../parts/format.ts';
import { How } from '../../parts/how.tsx';
import { FillingChart } from '../storage/filling-chart.tsx';
import type { FillingQuestion } from '../storage/filling-worker.ts';
import { useFilling } from '../storage/use-filling.ts';

const kindWords = { full: 'Full', linked: 'Linked', network: 'Streamed' } as const;

interface Props {
  readonly storage: StorageShown;
  readonly draft: PoolDraft;
  /** Of the assumptions behind a start. */
  readonly starting: {
    readonly starting: number;
    readonly startSeconds: number;
    readonly parentShare: number;
  };
}

export function StoragePanel({ storage, draft, starting }: Props) {
  const { clone = 'linked' } = draft;
  const question = useMemo((): FillingQuestion => {
    const lastDay = Math.max(1, Math.ceil(storage.input.days));
    return { input: storage.input, growth: storage.growth, kinds: cloneKinds, shown: clone, lastDay };
  }, [storage, clone]);
  const filling = useFilling(question);
  const chosen = storage.kinds.find((row) => row.kind === clone);
  const [store] = storage.input.datastores;
  return (
    <section aria-label="Storage">
      <h2>Storage and cost</h2>
      <p>
        {chosen && (
          <>
            {size(chosen.totalBytes)} for {money(chosen.pricePerMonth)} a month, and{' '}
            {money(storage.machinesPerMonth)} for {plural(draft.count ?? 0, 'machine')} that are always on.
          </>
        )}
      </p>
      <table className="table kinds-table" aria-label="Kinds of clone">
        <thead>
          <tr>
            <th>Clones</th>
            <th className="number">Storage</th>
            <th className="number">A month</th>
            <th className="number">Made in</th>
            <th className="number">All started in</th>
            <th className="number">Fills</th>
          </tr>
        </thead>
        <tbody>
          {storage.kinds.map((row) => (
            <tr key={row.kind} className={row.kind === clone ? 'chosen' : ''}>
              <td>{kindWords[row.kind]}</td>
              <td className="number" title={`${count(Math.round(row.totalBytes))} bytes`}>
                {size(row.totalBytes)}
              </td>
              <td className="number">{money(row.pricePerMonth)}</td>
              <td className="number">{minutes(row.minutes)}</td>
              <td className="number">{startedIn(row)}</td>
              <td className="number">{chanceInWords(filling?.chances[row.kind])}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {chosen && <p className="quiet">{stormInWords(chosen, starting)}</p>}
      {filling && store && (
        <FillingChart
          days={filling.days}
          capacityBytes={store.capacityBytes}
          name={store.name}
          daysFrom="days since all were made"
        />
      )}
      <p className="quiet">
        {store && promiseInWords(store)}{' '}
        <How
          rows={[
            [
              'Fills',
              'share of 2,000 draws in which the datastore is full before the next rebuild: each host has one daily growth, log-normal',
            ],
            [
              'Growth',
              `half of the hosts by over ${size(storage.growth.medianBytesPerDay)} a day, one of ten by over ${size(storage.growth.p90BytesPerDay)}`,
            ],
            ['Streamed', 'one image on a streaming store, and a scratch disk a host'],
            ['Money', 'bytes by the price of the datastore chosen; hours of a month are 730'],
          ]}
        />
      </p>
    </section>
  );
}

function startedIn({ storm }: StoredShown): string {
  return storm.allStartedSeconds === null ? 'never' : minutes(storm.allStartedSeconds / 60);
}

function chanceInWords(chance: number | undefined): string {
  if (chance === undefined) return '…';
  if (chance > 0 && chance < 0.01) return 'under 1 %';
  return percent(chance);
}

function stormInWords(
  { storm }: StoredShown,
  { starting, startSeconds, parentShare }: Props['starting'],
): string {
  const each = `a host that starts asks for ${count(starting)} operations a second for ${startSeconds} s`;
  if (storm.staggerSeconds === null) return `Not even one can start: ${each}, and fewer are free.`;
  if (storm.staggerSeconds === 0)
    return `All may start at once, with ${count(storm.allAtOnce)} operations a second.`;
  const what =
    storm.binds === 'parent' ? `the parent, which serves ${percent(parentShare)} of them` : 'the datastore';
  return `At most ${count(storm.atOnce)} may start together, one every ${storm.staggerSeconds.toFixed(1)} s: ${each}, and ${what} carries no more.`;
}

function promiseInWords({ name, overcommit }: StorageShown['input']['datastores'][number]): string {
  return overcommit === 1
    ? `The datastore ${name} promises no more than it has.`
    : `The datastore ${name} is over-committed by ${overcommit}: hosts are let in that may grow to ${overcommit} times what it has, and if all grew so far, ${percent(1 - 1 / overcommit)} of it would find no room.`;
}
