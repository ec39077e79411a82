/** Who acts: known to everything that a request, or a job that somebody started, leads to. */
import { AsyncLocalStorage } from 'node:async_hooks';
import type { Role } from '@vatline/core/roles';

const acting = new AsyncLocalStorage<Role | undefined>();

/** Runs work as somebody's; undefined for what the estate's clock or the server leads to by itself. */
export function actingAs<T>(role: Role | undefined, work: () => T): T {
  return acting.run(role, work);
}

/** The role of the person whose doing this is; undefined when it is nobody's. */
export function whoActs(): Role | undefined {
  return acting.getStore();
}
