import { rolloutEndpoints, type RolloutRequest } from '@vatline/contract/rollout';
import { inServiceOf } from '@vatline/core/rollout/forecast/plan';
import { listWindows } from '@vatline/core/time/windows';
import { hash32 } from '@vatline/core/random';
import { DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid } from '../platform/problem.ts';
import type { RolloutEngine } from './engine.ts';
import { forecastOf, forecastWork } from './forecasting.ts';
import type { Plans } from './plans.ts';
import { rolloutCells, rolloutHostPage } from './host-pages.ts';
import { faultsAtTheEnd, refuseUnknownCalendars, requestFaults, startRollout } from './start.ts';
import { revisionsOf } from './revisions.ts';
import type { RolloutStore } from './store.ts';
import { wayBack } from './way-back.ts';
import { RolloutsUnderWay } from './under-way.ts';

const RUNS = 1_000;
const WINDOWS_SHOWN = 7;

export function rolloutRoutes(
  door: Door,
  parts: Parts,
  plans: Plans,
  store: RolloutStore,
  engine: RolloutEngine,
): void {
  const underWay = new RolloutsUnderWay(parts, plans, store, engine);
  const now = () => parts.estate.clock.now();

  door.serve(rolloutEndpoints.list, () => store.list());
  door.serve(rolloutEndpoints.get, ({ params }) => store.presented(params.id));

  const plannedFrom = async (body: RolloutRequest, runs = RUNS) => {
    await refuseUnknownCalendars(plans, body);
    const options = { seed: hash32(body.poolId), from: now(), runs };
    const planned = await plans.forecastable(body, options);
    const faults = await requestFaults(parts, body, planned);
    if (faults.length > 0) throw invalid(faults);
    return planned;
  };

  door.serve(rolloutEndpoints.hosts, ({ params, query }) =>
    rolloutHostPage(parts, plans.pools, params.id, query),
  );
  door.serve(rolloutEndpoints.cells, ({ params }) => rolloutCells(parts, plans.pools, params.id));

  door.serve(rolloutEndpoints.forecast, async ({ body, gone }) => {
    const planned = await plannedFrom(body, body.runs);
    const { hosts: spans, rings: _rings, ...rest } = await forecastOf(parts, planned.plan, { signal: gone });
    const atTheEnd = await faultsAtTheEnd(parts, body, planned, rest.finish);
    if (atTheEnd.length > 0) throw invalid(atTheEnd);
    const inService = inServiceOf(planned.ring);
    const next = listWindows(planned.ring.window, planned.plan.from, WINDOWS_SHOWN);
    return {
      ...rest,
      hosts: planned.hosts.length,
      spans: spans.map((span) => ({ ...span, inService: inService(span.name) })),
      binding: [...rest.binding],
      held: [...rest.held],
      progress: [...rest.progress],
      windows: [...rest.windows],
      nextWindows: next.ok ? next.value : [],
      work: planned.work,
      ways: planned.ways,
      checks: planned.checks,
      failure: planned.ring.failure,
      seats: {
        perHost: planned.pool.session_limit,
        poolHosts: planned.ring.seats?.hosts ?? 0,
        expected: [...planned.expected],
      },
    };
  });

  door.serve(rolloutEndpoints.suggest, async ({ body, gone }) =>
    forecastWork(parts, 'suggestFor', (await plannedFrom(body)).plan, { signal: gone }),
  );

  door.serve(rolloutEndpoints.start, async ({ body }) => {
    const id = await startRollout(parts, plans, body);
    await engine.advance(id);
    return { id };
  });

  door.serve(rolloutEndpoints.stop, async ({ params, body }) => {
    await engine.stop(params.id, body);
    return DONE;
  });

  door.serve(rolloutEndpoints.revisions, async ({ params }) => {
    const { id } = await store.rollout(params.id);
    return revisionsOf(parts, plans, id);
  });

  door.serve(rolloutEndpoints.previewPlan, async ({ params, body }) => {
    const { says, answer } = await underWay.preview(params.id, body);
    const never = { p10: null, p50: null, p90: null };
    const none = { p10: 0, p50: 0, p90: 0 };
    return {
      says,
      finish: answer?.finish ?? never,
      minSeatsLeft: answer?.minSeatsLeft ?? none,
      windowsUsed: answer?.windowsUsed ?? none,
      binding: answer?.binding[0]?.constraint ?? null,
    };
  });

  door.serve(rolloutEndpoints.changePlan, async ({ params, body }) => {
    await underWay.changePlan(params.id, body.plan, body.why, body.basedOn);
    return DONE;
  });

  door.serve(rolloutEndpoints.pause, async ({ params, body }) => {
    await underWay.pause(params.id, body.why);
    return DONE;
  });

  door.serve(rolloutEndpoints.goOn, async ({ params }) => {
    await underWay.goOn(params.id);
    return DONE;
  });

  door.serve(rolloutEndpoints.wayBack, async ({ params, query }) =>
    wayBack(parts, plans, await store.rollout(params.id), query.batch),
  );

  door.serve(rolloutEndpoints.goBack, async ({ params, body }) => ({
    id: await engine.goBack(params.id, body.batch),
  }));

  door.serve(rolloutEndpoints.host, async ({ params, body }) => {
    await engine.decide(params.id, params.hostId, body.action);
    return DONE;
  });
}
