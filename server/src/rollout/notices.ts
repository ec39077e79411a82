/** Tells people on hosts what is coming: before a window begins, and when their host begins to drain. */
import { noticeAt, noticeText } from '@vatline/core/rollout/notice';
import type { RolloutSituation } from '@vatline/core/rollout/next-move';
import { MINUTE, type Instant } from '@vatline/core/time/instant';
import { EstateError } from '../estate/driver/operations.ts';
import type { Parts } from '../platform/parts.ts';
import { turnsForOthers } from '../platform/turns.ts';
import type { PoolStore } from '../pool/pools.ts';
import type { RolloutContext, RolloutStore } from './store.ts';

/** Hosts that are looked at together. */
const AT_ONCE = 500;

export class Notices {
  constructor(
    private readonly parts: Parts,
    private readonly pools: PoolStore,
    private readonly store: RolloutStore,
  ) {}

  /**
   * Tells everybody on hosts that wait, once for each window, or gives the instant at which it is to be asked
   * again. Cut short it is done anew, under the same keys: that they were told is written last.
   */
  async beforeWindow(
    context: RolloutContext,
    { now, window, isPaused, isStopped }: RolloutSituation,
  ): Promise<Instant | undefined> {
    const { notice } = context.request;
    if (!notice || !window || isPaused || isStopped) return undefined;
    const at = noticeAt(notice, window.start);
    if (at === undefined || context.rollout.told_window_ms === window.start) return undefined;
    if (now < at) return at;
    // Of a window that is open they hear when their host drains.
    if (now < window.start) await this.tellAll(context, window.start);
    return undefined;
  }

  /** Tells those on a host that begins to drain. */
  async atDrain({ request }: RolloutContext, key: string, host: string): Promise<void> {
    if (request.notice) await this.tell(key, host, noticeText(request.notice, request.drainLimitMinutes));
  }

  private async tellAll({ rollout, request, pool }: RolloutContext, start: Instant): Promise<void> {
    const { clock } = this.parts.estate;
    const text = noticeText(request.notice ?? { text: '' }, (start - clock.now()) / MINUTE);
    const states = await this.pools.hosts.counts(pool.id);
    const others = turnsForOthers();
    let [hosts, people] = [0, 0];
    const names = await this.store.waitingWithPeople(rollout.id);
    for (let i = 0; i < names.length; i += AT_ONCE) {
      const sessions = await this.pools.hosts.sessionsOn(pool, states, names.slice(i, i + AT_ONCE));
      for (const [host, count] of sessions) {
        if (count === 0) continue;
        await this.tell(`rollout/${rollout.id}/notice/${start}/${host}`, host, text);
        hosts++;
        people += count;
        await others();
      }
    }
    await this.parts.db.transact(async () => {
      await this.store.set(rollout.id, { told_window_ms: start });
      if (hosts === 0) return;
      await this.parts.journal.note({
        at: clock.now(),
        kind: 'rollout',
        subject: `rollout:${rollout.id}`,
        text: `${pool.name}: ${people} ${people === 1 ? 'person' : 'people'} on ${hosts} ${hosts === 1 ? 'host' : 'hosts'} were told of it`,
        link: `/rollouts/${rollout.id}`,
      });
    });
  }

  /** That somebody could not be told holds nothing up. */
  private async tell(key: string, host: string, text: string): Promise<void> {
    try {
      await this.parts.estate.broker.message(key, host, text);
    } catch (error) {
      if (!(error instanceof EstateError)) throw error;
      this.parts.log.warn({ err: error }, `those on ${host} could not be told`);
    }
  }
}
