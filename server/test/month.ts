/**
 * A month of the demo: a schedule cuts the staff line each Saturday and takes the version to the pilot and
 * then to the desks; a rollout through rings meets a host whose agent is silent and is held at its gate; the
 * clocks go forward; after the first Sunday the desks go back. Meanwhile the server is killed at random
 * moments and started again, and in the end everything is counted.
 */
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import type { KeptSchedule } from '@vatline/contract/cut-schedule';
import type { Clock } from '@vatline/contract/estate';
import type { Certificate } from '@vatline/contract/package';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { StagedRollout, StagedSummary } from '@vatline/contract/rings/staged';
import type { Rollout } from '@vatline/contract/rollout';
import { seededRandom } from '@vatline/core/random';
import { comeToAnEnd, whatIsWrong } from './aftermath.ts';
import { readRolloutJournal, type JournalFigures } from './rollout-journal.ts';
import { RunningApp } from './running-app.ts';
import { hostsOfRollout, packagesOf } from './usual-requests.ts';

const DAY = 86_400_000;
/** Far enough that nothing runs out meanwhile. */
const LASTING = 60 * DAY;
/** Changes of the databases after which it is killed, once the moment has come: in the midst of whatever is done then. */
const MOST_WRITES = 40;

export interface MonthFigures {
  readonly kills: number;
  readonly cuts: number;
  readonly journal: JournalFigures;
  /** Why the gate was held. */
  readonly held: string;
  /** Hosts that went back. */
  readonly wentBack: number;
  readonly wrong: readonly string[];
}

const preload = join(import.meta.dirname, 'kill-at-write.cjs');

/** Eight days have all of it but the cuts of the weeks to come. */
export async function month(days: number, kills: number, seed: string): Promise<MonthFigures> {
  const app = await RunningApp.start();
  try {
    const run = new Month(app, days, kills, seed);
    await run.live();
    await comeToAnEnd(app);
    const wrong = await whatIsWrong(app);
    const own = new Sqlite(join(app.folder, 'vatline.sqlite'), { readonly: true });
    const journal = readRolloutJournal(own, run.began);
    const { cuts } = own
      .prepare(`select count(*) as cuts from journal where kind = 'cut' and at_ms > ?`)
      .get(run.began) as { cuts: number };
    own.close();
    const { kills: killed, held, wentBack } = run;
    return { kills: killed, cuts, journal, held, wentBack, wrong: [...wrong, ...journal.wrong] };
  } finally {
    await app.stop();
  }
}

class Month {
  began = 0;
  kills = 0;
  held = '';
  wentBack = 0;
  private readonly moments: number[];
  private readonly random: () => number;
  private stagedId = '';
  private returned = false;
  /** Whether a kill is on its way; two at once would be one. */
  private isArmed = false;
  /** Days on which something was decided already. */
  private readonly decided = new Set<string>();

  constructor(
    private readonly app: RunningApp,
    private readonly days: number,
    kills: number,
    seed: string,
  ) {
    this.random = seededRandom(seed);
    this.moments = Array.from({ length: kills }, () => this.random() * days * DAY).sort((a, b) => a - b);
  }

  async live(): Promise<void> {
    this.began = (await this.app.api<Clock>('/estate/clock')).now;
    await this.relaunch();
    await this.signAgain();
    await this.keepSchedule();
    for (let now = this.began; now < this.began + this.days * DAY; now = await this.step()) {
      const isDue = this.moments[0] !== undefined && now >= this.began + this.moments[0];
      if (isDue && !this.isArmed) {
        this.moments.shift();
        this.isArmed = true;
        this.app.signal('SIGUSR2');
      }
      await this.decide((now - this.began) / DAY);
    }
  }

  /** On to the next thing that happens; where it was killed, it is started again. */
  private async step(): Promise<number> {
    return this.settle(async () => {
      await this.app.api('/estate/clock', { action: 'next event' });
      return (await this.app.api<Clock>('/estate/clock')).now;
    });
  }

  /** Does something until it is done, over kills in the midst of it. */
  private async settle<T>(work: () => Promise<T>): Promise<T> {
    for (;;) {
      try {
        return await work();
      } catch (error) {
        await this.app.untilGone();
        if (this.app.isRunning) throw error;
        this.kills++;
        await this.relaunch();
      }
    }
  }

  private async relaunch(): Promise<void> {
    await this.app.kill();
    this.isArmed = false;
    const after = 1 + Math.floor(this.random() * MOST_WRITES);
    await this.app.launchWith({ NODE_OPTIONS: `--require ${preload}`, KILL_AT_WRITE: String(after) });
    await this.app.api('/estate/clock', { action: 'rate', rate: 0 });
  }

  private async decide(day: number): Promise<void> {
    if (day >= 2 && this.isFirst('gate')) await this.settle(() => this.beginRings());
    if (this.stagedId !== '' && this.held === '') await this.settle(() => this.endHeld());
    if (day >= 7 && !this.returned) await this.settle(() => this.goBack());
  }

  private isFirst(what: string): boolean {
    if (this.decided.has(what)) return false;
    this.decided.add(what);
    return true;
  }

  private pool = async (name: string): Promise<PoolSummary> => {
    const pool = (await this.app.api<PoolSummary[]>('/pools')).find((one) => one.name === name);
    if (!pool) throw new Error(`there is no pool ${name}`);
    return pool;
  };

  /** The certificate of what the desks attach runs out within the month. */
  private async signAgain(): Promise<void> {
    const certificates = await this.app.api<Certificate[]>('/certificates');
    const good = certificates.find(({ fault, notTrustedBy, validTo }) => {
      return fault === '' && notTrustedBy.length === 0 && validTo > this.began + LASTING;
    });
    const packages = await packagesOf((path) => this.app.api(path));
    for (const { id, state, signed } of packages.flatMap(({ versions }) => versions)) {
      if (state !== 'live' || !signed || signed.validTo > this.began + LASTING) continue;
      const at = `/package-versions/${id}`;
      await this.app.api(at, { state: 'held' }, 'PATCH');
      await this.app.api(`${at}/sign`, { certificateId: good?.id });
      await this.app.api(`${at}/verify`, {});
      const { jobId } = await this.app.api<{ jobId: string }>(`${at}/offer`, {});
      while ((await this.app.api<{ state: string }>(`/jobs/${jobId}`)).state !== 'done')
        await this.app.api('/estate/clock', { action: 'next event' });
    }
  }

  private async keepSchedule(): Promise<void> {
    const [pilot, desks] = [await this.pool('pilot-bench'), await this.pool('desk-staff')];
    const at = `/lines/${desks.lineId}/schedule`;
    const { revision } = await this.app.api<KeptSchedule>(at);
    const follow = (poolId: string, start: string, end: string, batch: number) => ({
      poolId,
      window: { rule: 'FREQ=WEEKLY;BYDAY=SU', start, end },
      ...{ batch, maxUnavailable: batch, drainLimitMinutes: 10, reserve: null },
    });
    const schedule = {
      rule: 'FREQ=WEEKLY;BYDAY=SA',
      at: '02:00',
      zone: 'Europe/Dublin',
      ...{ takeUpdates: true, onlyIfChanged: false, leaveRunning: false, waitHours: 12 },
      rollouts: [follow(pilot.id, '01:00', '02:30', 3), follow(desks.id, '03:00', '06:00', 8)],
      basedOn: revision,
    };
    await this.app.api(at, schedule, 'PUT');
  }

  /** Half of the pilot, then all of it; one agent of the first half says nothing. */
  private async beginRings(): Promise<void> {
    const pilot = await this.pool('pilot-bench');
    // Begun, and killed before that was heard.
    const open = (await this.app.api<StagedSummary[]>('/staged-rollouts')).find(({ title }) =>
      /gate/.test(title),
    );
    if (open) {
      this.stagedId = open.id;
      return;
    }
    const target = 'WCL-PB-01';
    await this.app.api('/estate/faults', { kind: 'agent silent', target });
    const plan = {
      window: { rule: 'FREQ=DAILY', start: '01:00', end: '05:00' },
      ...{ zone: 'Europe/Dublin', calendarIds: [], batch: 3, maxUnavailable: 3 },
      ...{ drainLimitMinutes: 10, reserve: null, stop: { failures: 1, share: null, after: 0 } },
    };
    const gate = {
      ...{ finishedShare: 1, soakHours: 0, needsApproval: false },
      ...{ watchesSignIns: false, goesBack: false },
    };
    const half = { by: 'share', percent: 50, order: 'name' };
    const name = `the gate, ${this.kills}`;
    const order = await this.app.api<{ id: string }>('/ring-orders', {
      name,
      rings: [
        { name: 'half', poolId: pilot.id, take: half, plan, gate },
        { name: 'rest', poolId: pilot.id, take: { by: 'rest' }, plan, gate },
      ],
    });
    const line = await this.app.api<{ versions: { id: string; state: string }[] }>(`/lines/${pilot.lineId}`);
    const other = line.versions.find(
      ({ id, state }) => state === 'approved' && id !== pilot.blend?.imageVersionId,
    );
    const contents = { imageVersionId: other?.id, packageVersionIds: [] };
    const body = { orderId: order.id, revision: 1, contents };
    this.stagedId = (await this.app.api<{ id: string }>('/staged-rollouts', body)).id;
  }

  /** Once it is held: why; the agent speaks again, it is stopped, and what has failed is set aside. */
  private async endHeld(): Promise<void> {
    const staged = await this.app.api<StagedRollout>(`/staged-rollouts/${this.stagedId}`);
    if (staged.state !== 'held') return;
    const { faults } = await this.app.api<{ faults: { id: string }[] }>('/estate');
    for (const { id } of faults) await this.app.api(`/estate/faults/${id}`, undefined, 'DELETE');
    const rolloutId = staged.rings[0]?.rolloutId ?? '';
    for (const { host, stage } of await hostsOfRollout((path) => this.app.api(path), rolloutId))
      if (stage === 'failed')
        await this.app.api(`/rollouts/${rolloutId}/hosts/${host.id}`, { action: 'retry' });
    await this.app.api(`/staged-rollouts/${this.stagedId}/stop`, { why: 'the agent is looked at' });
    this.held = staged.heldWhy;
  }

  /** The desks go back from what the last schedule brought. */
  private async goBack(): Promise<void> {
    const rollouts = await this.app.api<Rollout[]>('/rollouts');
    if (rollouts.some(({ isReturn, pool }) => isReturn && pool === 'desk-staff')) {
      this.returned = true;
      return;
    }
    const last = rollouts.find(({ pool, state }) => pool === 'desk-staff' && state === 'done');
    if (!last) return;
    await this.app.api(`/rollouts/${last.id}/go-back`, {});
    this.wentBack = last.hosts;
    this.returned = true;
  }
}
