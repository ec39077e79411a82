/** Lines that are cut by themselves, and the rollouts that follow, over simulated weeks. */
import { hostsOfRollout } from './usual-requests.ts';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { KeptSchedule } from '@vatline/contract/cut-schedule';
import type { TapeItem } from '@vatline/contract/home';
import type { ImageVersion, LineDetail } from '@vatline/contract/image';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { RolloutHost } from '@vatline/contract/rollout';
import { wallClock } from '@vatline/core/time/zone';
import { MINUTE, TestServer } from './harness.ts';

const DAY = 24 * 60;
const zone = 'Europe/Dublin';
/** The wall time of an instant, such as `28 02:00`. */
const wall = (at: number | null | undefined) => {
  const { day, minutes } = wallClock(zone, at ?? 0);
  const two = (n: number) => String(n).padStart(2, '0');
  return `${day} ${two(Math.floor(minutes / 60))}:${two(minutes % 60)}`;
};

const sunday = (start: string, end: string) => ({ rule: 'FREQ=WEEKLY;BYDAY=SU', start, end });
const follow = (poolId: string, start: string, end: string) => ({
  poolId,
  window: sunday(start, end),
  batch: 4,
  maxUnavailable: 4,
  drainLimitMinutes: 10,
  reserve: null,
});
const weekly = (rollouts: unknown[] = []) => ({
  rule: 'FREQ=WEEKLY;BYDAY=SA',
  at: '02:00',
  zone,
  takeUpdates: true,
  onlyIfChanged: true,
  leaveRunning: false,
  waitHours: 12,
  rollouts,
});

describe('a weekly cut with a pilot first', () => {
  let server: TestServer;
  let lineId: string;
  const pools: Record<string, string> = {};
  beforeAll(async () => {
    server = await TestServer.open();
    const made = await server.makeVersion('Records desktop');
    lineId = made.lineId;
    for (const [name, pattern] of [
      ['pilot', 'WCL-PB-##'],
      ['records', 'WCL-RO-##'],
    ] as const) {
      await server.run('/pools', server.newPool(made.versionId, { name, pattern }));
      const list = await server.get<PoolSummary[]>('/pools');
      pools[name] = list.find((pool) => pool.name === name)?.id ?? '';
    }
  });
  afterAll(() => server.close());

  const kept = () => server.get<KeptSchedule>(`/lines/${lineId}/schedule`);
  const versions = async (): Promise<ImageVersion[]> =>
    (await server.get<LineDetail>(`/lines/${lineId}`)).versions;
  const untilMonday = async (day: number) => {
    while (wallClock(zone, server.now).day !== day) await server.advance(60);
  };

  it('is kept, and says when it runs next', async () => {
    const rollouts = [
      follow(pools['pilot'] ?? '', '02:00', '03:30'),
      follow(pools['records'] ?? '', '03:30', '05:00'),
    ];
    const answer = await server.send<KeptSchedule>('put', `/lines/${lineId}/schedule`, {
      ...weekly(rollouts),
      basedOn: 0,
    });
    expect(answer.nextAt.map(wall)).toEqual(['27 02:00', '3 02:00', '10 02:00']);
  });

  it('stands on the tape with what follows it', async () => {
    const tape = await server.get<TapeItem[]>(`/tape?from=${server.now}&to=${server.now + 7 * DAY * MINUTE}`);
    const planned = tape.filter((item) => item.kind === 'planned');
    // Until the last host of a window is done: one wave of 25 minutes each.
    expect(planned.map((item) => [item.label, wall(item.start), wall(item.end)])).toEqual([
      ['cut Records desktop', '27 02:00', '27 02:00'],
      ['then pilot', '28 02:00', '28 02:25'],
      ['then records', '28 03:30', '28 03:55'],
    ]);
  });

  it('first week: the updates out of band are taken, and the clocks go forward before the rollouts', async () => {
    await untilMonday(29);
    const [newest] = await versions();
    expect(newest).toMatchObject({ number: 2, state: 'in test', changes: [{ by: 'schedule' }] });
    const line = await server.get<LineDetail>(`/lines/${lineId}`);
    expect(line.recipe.find((step) => step.kind === 'updates')).toMatchObject({ release: '2027-03b' });
    const { rings, lastAt } = await kept();
    expect(wall(lastAt)).toBe('27 02:00');
    expect(rings.map((row) => [row.pool, row.state, row.versionNumber])).toEqual([
      ['pilot', 'done', 2],
      ['records', 'done', 2],
    ]);
    const [pilot, records] = await Promise.all(
      rings.map((row) => hostsOfRollout((path) => server.get(path), row.rolloutId ?? '')),
    );
    const times = (hosts: readonly RolloutHost[] = []) => hosts.map((row) => row.finishedAt ?? 0);
    expect(times(pilot)).toHaveLength(4);
    const [pilotEnd, recordsStart] = [Math.max(...times(pilot)), records?.[0]?.startedAt ?? 0];
    expect(wall(records?.[0]?.startedAt)).toBe('28 03:30');
    expect(pilotEnd).toBeLessThan(recordsStart);
    // 02:00 in summer time is 01:00 UTC: the hour before it did not exist.
    expect(Math.min(...(pilot ?? []).map((row) => row.startedAt ?? 0))).toBe(Date.UTC(2027, 2, 28, 1));
  });

  it('second week: nothing has changed, so nothing is cut and nobody is disturbed', async () => {
    await untilMonday(5);
    expect((await versions()).map((version) => version.number)).toEqual([2, 1]);
    const { lastOutcome, rings } = await kept();
    expect(lastOutcome).toBe('was left out: nothing has changed since version 2');
    expect(rings).toHaveLength(2);
  });

  it("third week: the server is killed in the middle of the build and goes on; April's updates go out", async () => {
    while (wallClock(zone, server.now).day !== 10) await server.advance(60);
    await server.advance(150);
    await server.restart();
    await untilMonday(12);
    const [newest] = await versions();
    expect(newest).toMatchObject({ number: 3, state: 'in test' });
    const line = await server.get<LineDetail>(`/lines/${lineId}`);
    expect(line.recipe.find((step) => step.kind === 'updates')).toMatchObject({ release: '2027-04' });
    const { rings } = await kept();
    expect(rings.map((row) => [row.pool, row.state, row.versionNumber])).toEqual([
      ['pilot', 'done', 3],
      ['records', 'done', 3],
      ['pilot', 'done', 2],
      ['records', 'done', 2],
    ]);
    expect(newest?.usedBy).toEqual([
      { pool: 'pilot', hosts: 4 },
      { pool: 'records', hosts: 4 },
    ]);
  });

  it('a version in use, or that a pool goes back to, is not deleted; one that nothing needs is', async () => {
    const [third, second, first] = await versions();
    expect(second?.neededBy).toEqual(['pilot goes back to it', 'records goes back to it']);
    const refused = await server.refused('post', `/lines/${lineId}/deletions`, {
      versionIds: [first?.id, third?.id, second?.id],
    });
    expect(refused.faults).toEqual([
      {
        path: 'versionIds.1',
        message: 'version 3 is needed: pilot runs it on 4 hosts, records runs it on 4 hosts',
      },
      {
        path: 'versionIds.2',
        message: 'version 2 is needed: pilot goes back to it, records goes back to it',
      },
    ]);
    const job = await server.run(`/lines/${lineId}/deletions`, { versionIds: [first?.id] });
    expect([job.state, job.title]).toEqual(['done', 'Delete 1 version of Records desktop']);
    expect((await versions()).map((version) => version.number)).toEqual([3, 2]);
    const again = await server.refused('post', '/rollouts', {
      ...follow(pools['pilot'] ?? '', '02:00', '05:00'),
      zone,
      imageVersionId: first?.id,
      packageVersionIds: [],
    });
    expect(again.faults[0]?.message).toBe('version 1 was deleted');
  });

  it('what goes wrong on the pilot stops the rest', async () => {
    await untilMonday(3); // May: the next release was cut on Saturday the 8th at the earliest.
    const { recipe, recipeRevision } = await server.get<LineDetail>(`/lines/${lineId}`);
    const steps = [...recipe, { id: 'more', kind: 'restart' }];
    await server.send('put', `/lines/${lineId}/recipe`, { steps, basedOn: recipeRevision });
    while (wallClock(zone, server.now).day !== 9) await server.advance(30);
    while ((await kept()).rings[0]?.state !== 'started') await server.advance(5);
    const rolloutId = (await kept()).rings[0]?.rolloutId ?? '';
    await server.send('post', `/rollouts/${rolloutId}/stop`);
    await untilMonday(10);
    expect((await kept()).rings.slice(0, 2).map((row) => [row.pool, row.state, row.note])).toEqual([
      ['pilot', 'stopped', ''],
      ['records', 'waiting', 'pilot was stopped'],
    ]);
  });

  it('is dropped again, and then nothing more is cut', async () => {
    await server.send('delete', `/lines/${lineId}/schedule`);
    const before = (await versions()).length;
    await server.advance(35 * DAY);
    expect((await versions()).length).toBe(before);
    expect(await kept()).toMatchObject({ schedule: null, nextAt: [] });
  });
});

describe('a schedule that cannot be kept', () => {
  let server: TestServer;
  let lineId: string;
  beforeAll(async () => {
    server = await TestServer.open();
    lineId = await server.newLine('Records desktop');
  });
  afterAll(() => server.close());

  it.each([
    ['a rule that never happens', { rule: 'FREQ=YEARLY;UNTIL=20200101T000000Z' }, ['rule']],
    ['a rule that is none', { rule: 'on Saturdays' }, ['rule']],
    ['a time that is none', { at: '25:00' }, ['at']],
    ['an unknown zone', { zone: 'Europe/Nowhere' }, ['zone']],
    ['a pool that is not there', { rollouts: [follow('pool-x', '02:00', '05:00')] }, ['rollouts.0.poolId']],
    [
      'windows without length',
      { rollouts: [follow('pool-x', '02:00', '02:00')] },
      ['rollouts.0.poolId', 'rollouts.0.window.end'],
    ],
  ])('%s is refused at its field', async (_what, change, paths) => {
    const refused = await server.refused('put', `/lines/${lineId}/schedule`, {
      ...weekly(),
      ...change,
      basedOn: 0,
    });
    expect([refused.status, refused.paths]).toEqual([422, paths]);
    expect((await server.get<KeptSchedule>(`/lines/${lineId}/schedule`)).schedule).toBeNull();
  });

  it('waits while the line is busy, then builds and cuts a first version and runs the machine again', async () => {
    const schedule = { ...weekly(), rule: 'FREQ=DAILY', at: '09:00', leaveRunning: true };
    await server.send('put', `/lines/${lineId}/schedule`, { ...schedule, basedOn: 0 });
    await server.advance(55);
    const { jobId } = await server.send<{ jobId: string }>('post', `/lines/${lineId}/builds`);
    await server.untilEnded(jobId);
    await server.advance(120);
    const line = await server.get<LineDetail>(`/lines/${lineId}`);
    expect(line.versions.map((version) => [version.number, version.state])).toEqual([[1, 'draft']]);
    expect(line.machine?.power).toBe('on');
    expect(line.jobs.map((job) => [job.kind, job.state])).toEqual([
      ['scheduled cut', 'done'],
      ['build', 'done'],
    ]);
  });
});

describe('states of a version', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.open();
  });
  afterAll(() => server.close());

  it('are kept with who set them and when; only an approver approves', async () => {
    const { lineId, versionId } = await server.makeVersion();
    const path = `/versions/${versionId}`;
    expect((await server.refused('patch', path, { state: 'approved' })).paths).toEqual(['state']);
    await server.send('patch', path, { state: 'in test' });
    const approvedAt = server.now + 60 * MINUTE;
    await server.advance(60);
    await server.send('put', '/caller', { role: 'approver' });
    await server.send('patch', path, { state: 'approved', note: 'soaked a week' });
    const [version] = (await server.get<LineDetail>(`/lines/${lineId}`)).versions;
    expect(version?.changes).toEqual([
      { state: 'approved', by: 'approver', note: 'soaked a week', at: approvedAt },
      { state: 'in test', by: 'engineer', note: '', at: approvedAt - 60 * MINUTE },
    ]);
  });
});
