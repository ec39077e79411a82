import { ringOrderEndpoints } from '@vatline/contract/rings/order';
import type { PlannedRing, RolloutContents } from '@vatline/contract/rings/ring';
import { stagedEndpoints } from '@vatline/contract/rings/staged';
import type { Forecast } from '@vatline/core/rollout/forecast/forecast';
import { minutesHeld } from '@vatline/core/rollout/forecast/ring-run';
import { usualApprovalHours } from '@vatline/core/rollout/rings/approval';
import { hash32 } from '@vatline/core/random';
import { listWindows } from '@vatline/core/time/windows';
import { change, DONE } from '../../platform/change.ts';
import type { Door } from '../../platform/door.ts';
import type { Note } from '../../platform/journal.ts';
import type { Parts } from '../../platform/parts.ts';
import { forecastOf } from '../forecasting.ts';
import type { RingOrders } from './orders.ts';
import type { PlannedPart, RingPlanner } from './planner.ts';
import { WINDOWS_SHOWN, type StagedPresenter } from './present.ts';
import { byRing } from './keep-staged.ts';
import type { StagedRollouts } from './staged.ts';

interface Rings {
  readonly orders: RingOrders;
  readonly planner: RingPlanner;
  readonly staged: StagedRollouts;
  readonly presenter: StagedPresenter;
}

export function ringRoutes(door: Door, parts: Parts, rings: Rings): void {
  orderRoutes(door, parts, rings);
  stagedRoutes(door, rings);
}

function orderRoutes(door: Door, parts: Parts, { orders, planner }: Rings): void {
  door.serve(ringOrderEndpoints.list, () => orders.all());

  door.serve(ringOrderEndpoints.add, async ({ body: { name, rings } }) => {
    await planner.refuseFaulty(rings);
    return change(
      parts,
      async () => ({ id: await orders.add(name, rings) }),
      () => orderNote(`The order of rings ${name} is kept`),
    );
  });

  door.serve(ringOrderEndpoints.keep, async ({ params, body: { name, rings, basedOn } }) => {
    await orders.get(params.id);
    await planner.refuseFaulty(rings);
    return change(
      parts,
      async () => ({ revision: await orders.keep(params.id, name, rings, basedOn) }),
      ({ revision }) => orderNote(`The order of rings ${name}: revision ${revision} was kept`),
    );
  });

  door.serve(ringOrderEndpoints.remove, async ({ params }) => {
    const { name } = await orders.get(params.id);
    return change(
      parts,
      async () => {
        await orders.remove(params.id);
        return DONE;
      },
      () => orderNote(`The order of rings ${name} was forgotten`),
    );
  });

  door.serve(ringOrderEndpoints.forecast, ({ body, gone }) =>
    forecastRings(parts, planner, body.rings, { ...body, signal: gone }),
  );
}

interface Asked {
  readonly contents: RolloutContents;
  readonly runs: number;
  readonly signal: AbortSignal;
}

async function forecastRings(
  parts: Parts,
  planner: RingPlanner,
  rings: readonly PlannedRing[],
  { contents, runs, signal }: Asked,
) {
  const from = parts.estate.clock.now();
  const options = { seed: hash32(JSON.stringify(rings.map((ring) => ring.name))), from };
  const planned = await planner.partsOf(rings, contents, options);
  const plan = planner.planOf(planned, { ...options, runs, notBefore: from });
  const whole = await forecastOf(parts, plan, { signal });
  const of = byRing(planned, whole);
  return {
    runs: whole.runs,
    finish: whole.finish,
    approvalHours: usualApprovalHours,
    rings: planned.map((part, i) => ({
      ...headOf(part, from),
      opens: of[i]?.opens ?? never,
      finish: of[i]?.finish ?? never,
      windowsUsed: of[i]?.windowsUsed ?? none,
      minSeatsLeft: of[i]?.minSeatsLeft ?? none,
      binding: of[i] ? heldMost(whole, indexAmong(planned, i)) : null,
    })),
  };
}

const never = { p10: null, p50: null, p90: null };
const none = { p10: 0, p50: 0, p90: 0 };

function headOf({ ring, planned }: PlannedPart, from: number) {
  const windows = listWindows(planned.ring.window, from, WINDOWS_SHOWN);
  return {
    name: ring.name,
    hosts: planned.hosts.length,
    poolHosts: planned.ring.seats?.hosts ?? 0,
    windows: windows.ok ? windows.value.map(({ start, end }) => ({ start, end })) : [],
  };
}

/** The place of a ring among those that change hosts. */
function indexAmong(planned: readonly PlannedPart[], number: number): number {
  return planned.slice(0, number).filter((part) => part.planned.hosts.length > 0).length;
}

function heldMost({ held }: Forecast, ring: number) {
  return minutesHeld(held.filter((span) => span.ring === ring))[0]?.constraint ?? null;
}

function stagedRoutes(door: Door, { staged, presenter }: Rings): void {
  door.serve(stagedEndpoints.list, () => presenter.list());
  door.serve(stagedEndpoints.get, ({ params }) => presenter.get(params.id));

  door.serve(stagedEndpoints.start, async ({ body: { orderId, revision, contents } }) => ({
    id: await staged.start(orderId, revision, contents),
  }));

  door.serve(stagedEndpoints.decide, async ({ params, body }) => {
    await staged.decide(params.id, body);
    return DONE;
  });

  door.serve(stagedEndpoints.stop, async ({ params, body }) => {
    await staged.stop(params.id, body.why);
    return DONE;
  });
}

function orderNote(text: string): Omit<Note, 'at'> {
  return { kind: 'rollout', subject: 'ring-order', text, link: '/rollouts/rings' };
}
