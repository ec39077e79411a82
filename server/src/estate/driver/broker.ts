/** The broker, which gives people sessions on hosts. */
import type { Operation } from './operations.ts';

/** Gives people sessions on hosts. */
export interface Broker {
  register(key: string, pool: string, host: string): Promise<Operation>;
  deregister(key: string, host: string): Promise<void>;
}
