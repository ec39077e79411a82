/** Streaming: whose scratch disk is full first, what pools run and are to run, and how full the stores are. */
import '../storage/storage.css';
import './streaming.css';
import { Link } from 'react-router';
import type { Streaming } from '@vatline/contract/pool/streaming';
import { poolsApi } from '../../api/pools.ts';
import { problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { nearDay, plural, time } from '../../parts/format.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { Station } from '../../shell/station.tsx';
import { usePoolRack } from '../pool-rack.tsx';
import { ScratchTable } from './scratch-table.tsx';
import { StoreCards } from './store-cards.tsx';
import { SwitchCard } from './switch-card.tsx';

export function StreamingPage() {
  const { items, action } = usePoolRack();
  const { data, error } = poolsApi.useStreamingQuery({});
  return (
    <Station items={items} action={action}>
      <div className="bench-columns streaming">
        <section className="work" aria-label="Streaming">
          {data && <Headline streaming={data} />}
          <p className="under-answer">
            Hosts without a system disk stream one image. What they write goes to a scratch disk, which is
            empty again at every start; a host whose scratch disk is full answers nobody.
          </p>
          <ProblemNote problem={problemOf(error)} />
          {data?.pools.map((pool) => (
            <SwitchCard key={pool.id} pool={pool} />
          ))}
          {data?.pools.length === 0 && (
            <p>
              No pool streams its image. <Link to="/pools/new">Make one</Link> with streamed disks, or of the
              machines of a <Link to="/pools/chassis">chassis</Link>.
            </p>
          )}
          {data && data.pools.length > 0 && <ScratchTable disks={data.scratch} />}
        </section>
        <aside className="evidence" aria-label="Streaming stores">
          {data && <StoreCards stores={data.stores} />}
        </aside>
      </div>
    </Station>
  );
}

function Headline({ streaming: { scratch, fullSoon, pools } }: { streaming: Streaming }) {
  const { now, zone } = useEstateTime();
  const [first] = scratch;
  const waiting = pools.reduce((sum, pool) => sum + (pool.switch?.waiting ?? 0), 0);
  const switching =
    waiting > 0 ? ` ${plural(waiting, 'host')} wait${waiting === 1 ? 's' : ''} for another image.` : '';
  if (!first || first.fullAt === null)
    return <h1 className="answer">No scratch disk is filling.{switching}</h1>;
  const when = `${nearDay(first.fullAt, now, zone)} ${time(first.fullAt, zone)}`;
  const text =
    first.fullAt <= now
      ? `The scratch disk of ${first.host} is full`
      : fullSoon > 0
        ? `${plural(fullSoon, 'scratch disk')} ${fullSoon === 1 ? 'is' : 'are'} full within a day, ${fullSoon === 1 ? 'that' : 'first that'} of ${first.host}: ${when}`
        : `No scratch disk is full within a day; the first is that of ${first.host}, ${when}`;
  return (
    <h1 className="answer">
      {text}.{switching}
    </h1>
  );
}
