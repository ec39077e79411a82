/** What the broker is to hold people of a pool to. */
import type { PoolSettings } from '@vatline/contract/pool/kinds';
import type { BrokerPool } from '../estate/driver/broker.ts';

type Held = Pick<PoolSettings, 'title' | 'idleMinutes' | 'disconnectMinutes' | 'mayRestart' | 'zone'>;

/** People see the pool's own name where it has no other, and the estate's zone. */
export function brokerPoolOf(
  pool: { readonly name: string; readonly sessionLimit: number },
  { title, idleMinutes, disconnectMinutes, mayRestart, zone }: Held,
  estateZone: string,
): BrokerPool {
  return {
    title: title || pool.name,
    sessionLimit: pool.sessionLimit,
    idleMinutes,
    disconnectMinutes,
    mayRestart,
    zone: zone ?? estateZone,
  };
}
