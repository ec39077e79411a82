/** Orders of rings: which pools, or parts of them, get something first, and what has to hold before the next do. */
import '../rollouts.css';
import { Button } from 'antd';
import { Navigate, useNavigate, useParams, useSearchParams } from 'react-router';
import { ringsApi } from '../../api/rings.ts';
import { poolsApi } from '../../api/pools.ts';
import { plural } from '../../parts/format.ts';
import { Station } from '../../shell/station.tsx';
import { useEstateTime } from '../../shell/clock.ts';
import { firstRings, ringOf } from './first-rings.ts';
import { OrderBench } from './order-bench.tsx';

export function RingsPage() {
  const { orderId } = useParams();
  const navigate = useNavigate();
  const { data: orders } = ringsApi.useRingOrdersQuery({});
  const items = (orders ?? []).map((order) => ({
    to: `/rollouts/rings/${order.id}`,
    title: order.name,
    sub: `${plural(order.rings.length, 'ring')}, revision ${order.revision}`,
  }));
  const open = orders?.find((order) => order.id === orderId);
  const [first] = orders ?? [];
  return (
    <Station
      items={items}
      action={<Button onClick={() => void navigate('/rollouts/rings/new')}>New order of rings</Button>}
    >
      {orderId === 'new' ? (
        <NewOrder />
      ) : open ? (
        <OrderBench key={open.id} kept={open} draft={open} />
      ) : orderId !== undefined && orders ? (
        <p className="work quiet">This order of rings was forgotten.</p>
      ) : first ? (
        <Navigate to={`/rollouts/rings/${first.id}`} replace />
      ) : (
        orders && <NewOrder />
      )}
    </Station>
  );
}

/** Begins with the smallest pool of a line that has several, as a pilot; or with those that the address names. */
function NewOrder() {
  const { data: pools } = poolsApi.usePoolsQuery({});
  const [search] = useSearchParams();
  const { zone, now } = useEstateTime();
  if (!pools || now === 0) return null;
  if (pools.length === 0)
    return (
      <p className="work quiet">No pool is there yet that could go through rings. Make one under Pools.</p>
    );
  const named = (search.get('pools') ?? '').split(',');
  const asked = pools.filter((pool) => named.includes(pool.id));
  const rings =
    asked.length > 0
      ? asked.toSorted((a, b) => a.hosts - b.hosts).map((pool) => ringOf(pool, zone))
      : firstRings(pools, zone);
  const to = search.get('to');
  const contents = to === null ? {} : { contents: { imageVersionId: to, packageVersionIds: [] } };
  return (
    <OrderBench key={`new ${search.toString()}`} kept={undefined} draft={{ name: '', rings }} {...contents} />
  );
}
