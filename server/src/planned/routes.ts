import { MOST_PLANNED, plannedEndpoints, plannedFileEndpoints } from '@vatline/contract/planned';
import { DAY, type Instant } from '@vatline/core/time/instant';
import { clockChanges } from '@vatline/core/time/clock-changes';
import type { CalendarStore } from '../calendar/store.ts';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { freeOperations } from '../pool/free-operations.ts';
import { subscription } from './subscription.ts';
import { plannedWork, type PlannedStores } from './work.ts';

export function plannedRoutes(
  door: Door,
  parts: Parts,
  stores: PlannedStores & { readonly calendars: CalendarStore },
): void {
  door.serve(plannedEndpoints.between, async ({ query: { from, to } }) => {
    const all = await plannedWork(parts, stores, from, to);
    const planned = all.slice(0, MOST_PLANNED);
    return {
      planned,
      more: all.length - planned.length,
      stores: await storeLimits(parts),
      clockChanges: clockChanges(parts.estate.clock.zone, from, to),
      closed: await closedDates(parts, stores.calendars, from, to),
    };
  });

  door.serveRaw(plannedFileEndpoints.calendar, async ({ query, response }) => {
    response.type(plannedFileEndpoints.calendar.gives).send(await subscription(parts, stores, query.weeks));
  });
}

async function storeLimits({ estate }: Parts) {
  return (await estate.hypervisor.sites()).flatMap((site) => [
    { kind: 'hypervisor' as const, store: site.name, free: site.makesAtOnce },
    ...site.datastores.map(({ name }) => ({
      kind: 'datastore' as const,
      store: `${site.name}, ${name}`,
      free: freeOperations(site, name),
    })),
  ]);
}

/** What all calendars close, whether a plan keeps to them or not: whoever plans looks at all of it. */
async function closedDates({ estate }: Parts, calendars: CalendarStore, from: Instant, to: Instant) {
  const dates = new Map<string, string[]>();
  const [first, last] = [from - DAY, to + DAY].map((at) => new Date(at).toISOString().slice(0, 10));
  for (const calendar of await calendars.all()) {
    const closed = await calendars.closedBy(calendar, estate.clock.zone, from);
    if (!closed.ok) continue;
    for (const date of closed.value.dates) {
      if (date < (first ?? '') || date > (last ?? '')) continue;
      dates.set(date, [...(dates.get(date) ?? []), calendar.name]);
    }
  }
  return [...dates]
    .map(([date, names]) => ({ date, calendars: names }))
    .sort((a, b) => (a.date < b.date ? -1 : 1));
}
