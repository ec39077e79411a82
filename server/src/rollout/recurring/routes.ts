import { recurringEndpoints } from '@vatline/contract/recurring';
import { DONE } from '../../platform/change.ts';
import type { Door } from '../../platform/door.ts';
import type { RecurringRollouts } from './recurring.ts';

export function recurringRoutes(door: Door, recurring: RecurringRollouts): void {
  door.serve(recurringEndpoints.list, () => recurring.all());

  door.serve(recurringEndpoints.keep, async ({ params, body: { takes, plan, basedOn } }) => ({
    revision: await recurring.keep(params.id, takes, plan, basedOn),
  }));

  door.serve(recurringEndpoints.drop, async ({ params }) => {
    await recurring.drop(params.id);
    return DONE;
  });
}
