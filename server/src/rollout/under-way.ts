/** Pausing rollouts, letting them go on, and changing their plans while they run; each change is a revision. */
import type { Plan } from '@vatline/contract/rollout';
import { planChanges, underWayRefusal, type UnderWay } from '@vatline/core/rollout/plan-change';
import type { Forecast } from '@vatline/core/rollout/forecast/forecast';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid } from '../platform/problem.ts';
import type { RolloutEngine } from './engine.ts';
import type { Plans } from './plans.ts';
import { lastRevision, noteRevision, revisionsOf } from './revisions.ts';
import { refuseUnknownCalendars, requestFaults } from './start.ts';
import type { RolloutContext, RolloutStore } from './store.ts';
import type { RolloutRow } from './tables.ts';

export class RolloutsUnderWay {
  constructor(
    private readonly parts: Parts,
    private readonly plans: Plans,
    private readonly store: RolloutStore,
    private readonly engine: RolloutEngine,
  ) {}

  /** What another plan would say and come to. Throws a refusal with what is wrong with it. */
  async preview(id: string, plan: Plan): Promise<{ says: string[]; answer: Forecast | undefined }> {
    const row = await this.store.rollout(id);
    refuse(row, 'change');
    await this.refuseFaulty(row, plan);
    const { waiting, atWork } = await this.store.counts(id);
    const answer = await this.store.forecastRest(row, plan, waiting + atWork);
    return { says: planChanges(await this.plans.get(row.plan_id), plan), answer };
  }

  /** Throws a refusal when somebody else was faster, with what they changed. */
  async changePlan(id: string, plan: Plan, why: string, basedOn: number): Promise<void> {
    const { answer } = await this.preview(id, plan);
    const expected = answer?.finish.p90 ?? null;
    await this.engine.change(id, async (context) => {
      refuse(context.rollout, 'change');
      await this.refuseOvertaken(id, basedOn);
      const says = planChanges(context.request, plan);
      if (says.length === 0) throw conflict('This plan says what it says already', 'plan');
      await this.write(context, {
        plan_id: await this.plans.add(plan),
        says: says.join('; '),
        why,
        expected_ms: expected === null ? null : Math.round(expected),
      });
    });
  }

  async pause(id: string, why: string): Promise<void> {
    await this.engine.change(id, async (context) => {
      refuse(context.rollout, 'pause');
      await this.store.set(id, { paused_ms: this.now });
      await this.write(context, { says: 'paused', why, expected_ms: null });
    });
  }

  async goOn(id: string): Promise<void> {
    await this.engine.change(id, async (context) => {
      refuse(context.rollout, 'go on');
      // What has failed by now was looked at by whoever lets it go on.
      const { lost } = await this.store.counts(id);
      await this.store.set(id, { paused_ms: null, failures_seen: lost });
      await this.write(context, { says: 'goes on', why: '', expected_ms: null });
    });
  }

  private get now(): number {
    return this.parts.estate.clock.now();
  }

  private async write(
    { rollout, pool }: RolloutContext,
    revision: {
      readonly plan_id?: string;
      readonly says: string;
      readonly why: string;
      readonly expected_ms: number | null;
    },
  ): Promise<void> {
    const { id, plan_id } = rollout;
    const row = { rollout_id: id, at_ms: this.now, plan_id, ...revision };
    await noteRevision(this.parts, pool.name, row);
    await this.store.set(id, { plan_id: row.plan_id });
  }

  private async refuseOvertaken(id: string, basedOn: number): Promise<void> {
    if ((await lastRevision(this.parts, id)) === basedOn) return;
    const since = (await revisionsOf(this.parts, this.plans, id)).filter((one) => one.number > basedOn);
    const said = since.map(({ says, by }) => `${says} (${by ?? 'by itself'})`).reverse();
    throw conflict(`It was changed meanwhile: ${said.join('; ')}`, 'plan');
  }

  /** What is wrong with it for the hosts that are left, each at its field. */
  private async refuseFaulty(row: RolloutRow, plan: Plan): Promise<void> {
    await refuseUnknownCalendars(this.plans, plan);
    const { hosts, waiting, atWork } = await this.store.counts(row.id);
    // A batch that was right for all hosts is not wrong because few of them are left.
    const batch = plan.batch > hosts ? plan.batch : Math.min(plan.batch, Math.max(1, waiting + atWork));
    const request = { ...(await this.store.requestOf(row, plan)), ...plan, batch };
    const planned = await this.plans.forecastable(request, {
      seed: row.seed,
      from: row.windows_from_ms,
      runs: 1,
    });
    const faults = await requestFaults(this.parts, request, planned, row.is_return === 1);
    // What it is to run was judged at its start, and which hosts are left is its own list's.
    const own = faults.filter(
      ({ path }) => !/^(imageVersionId|packageVersionIds|onlyHosts|hosts)/.test(path),
    );
    if (own.length > 0) throw invalid(own);
  }
}

function refuse({ ended_ms, state, paused_ms }: RolloutRow, what: UnderWay): void {
  const reason = underWayRefusal(
    { hasEnded: ended_ms !== null, isStopped: state === 'stopped', isPaused: paused_ms !== null },
    what,
  );
  if (reason !== undefined) throw conflict(reason);
}
