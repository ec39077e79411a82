/**
 * At each start the broker is told what it is to hold people to: pools that it does not know, or knows
 * otherwise, and which hosts take people. A stop may have come between our own books
 * and the broker's.
 */
import type { Parts } from '../platform/parts.ts';
import { takesSessions } from '@vatline/core/pool/service-state';
import { brokerPoolOf } from './broker-pool.ts';
import { settingsIn, type PoolStore } from './pools.ts';

export async function tellBroker({ estate }: Parts, pools: PoolStore): Promise<void> {
  const { broker, clock } = estate;
  for (const pool of await pools.all()) {
    const held = brokerPoolOf(
      { name: pool.name, sessionLimit: pool.session_limit },
      settingsIn(pool),
      clock.zone,
    );
    if (JSON.stringify(await broker.pool(pool.name)) !== JSON.stringify(held))
      await broker.setPool(`${pool.id}/start`, pool.name, held);
    const hosts = await pools.hosts.of(pool.id);
    const named = (takes: boolean) =>
      hosts.filter((host) => takesSessions(host) === takes).map((host) => host.name);
    await broker.setTaking(`${pool.id}/start`, named(true), true);
    await broker.setTaking(`${pool.id}/start`, named(false), false);
  }
}
