/** The library's orders of rings. */
import type { PlannedRing } from '@vatline/contract/rings/ring';
import { ringOrders } from '@vatline/demo/ring-orders';
import type { RingOrders } from '../rollout/rings/orders.ts';

type Ordered = (typeof ringOrders)[number]['rings'][number];

/** `pools` by name. */
export async function fillRingOrders(
  orders: RingOrders,
  pools: ReadonlyMap<string, string>,
  zone: string,
): Promise<void> {
  for (const { name, rings } of ringOrders)
    await orders.add(
      name,
      rings.map((ring) => ringOf(ring, pools.get(ring.pool) ?? '', zone)),
    );
}

function ringOf(ring: Ordered, poolId: string, zone: string): PlannedRing {
  const { name, percent, window, batch, drainLimitMinutes, reserve, failures, soakHours, needsApproval } =
    ring;
  return {
    name,
    poolId,
    take: percent === undefined ? { by: 'rest' } : { by: 'share', percent, order: 'sites' },
    plan: {
      window,
      zone,
      calendarIds: [],
      batch,
      maxUnavailable: batch,
      drainLimitMinutes,
      reserve,
      stop: { failures, share: null, after: 0 },
      notice: null,
    },
    gate: { finishedShare: 1, soakHours, needsApproval, watchesSignIns: soakHours > 0, goesBack: false },
  };
}
