/** Pools kept ready on the practice estate: who waits, what is saved, and what becomes of each host. */
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { Job } from '@vatline/contract/job';
import type { Page } from '@vatline/contract/page';
import type { HostsPreview } from '@vatline/contract/pool/more-hosts';
import type { PoolDetail, PoolSummary } from '@vatline/contract/pool/endpoints';
import type { Host } from '@vatline/contract/pool/host';
import type { Readiness, ReadinessRulesBody } from '@vatline/contract/pool/readiness';
import { sparesAt, type RestMode } from '@vatline/core/pool/readiness';
import { TestServer } from './harness.ts';
import { hostsOf, ledgerOf, smallPool } from './usual-requests.ts';

let server: TestServer;
const get = <T>(path: string) => server.get<T>(path);
const estate = () => server.app.estate;

async function poolNamed(name: string): Promise<PoolSummary> {
  const found = (await get<PoolSummary[]>('/pools')).find((pool) => pool.name === name);
  if (!found) throw new Error(`no ${name}`);
  return found;
}

const readinessOf = (id: string) => server.getAnew<Readiness>(`/pools/${id}/readiness`);
const always = (mode: RestMode): RestMode[][] =>
  Array.from({ length: 7 }, () => Array.from({ length: 24 }, () => mode));
const byHour = (n: number) => Array.from({ length: 24 }, () => n);

async function keep(id: string, change: Partial<ReadinessRulesBody>, isKept = true): Promise<void> {
  const { rules, revision } = await readinessOf(id);
  await server.send('put', `/pools/${id}/readiness`, {
    rules: { ...rules, ...change },
    isKept,
    basedOn: revision,
  });
}

const states = async (id: string) => {
  const counted: Record<string, number> = {};
  for (const { state } of await hostsOf((path) => server.getAnew(path), id))
    counted[state] = (counted[state] ?? 0) + 1;
  return counted;
};

/** What the outside says of each host of a pool, by name. */
function outside(pool: string): Map<string, { power: string; takes: number }> {
  const rows = server.outside<{ name: string; power: string; takes: number }>(
    'select name, power, takes from machine join registration on host = name where registration.pool = ?',
    pool,
  );
  return new Map(rows.map(({ name, ...row }) => [name, row]));
}

describe('a week of the contact centre', () => {
  beforeAll(async () => (server = await TestServer.open({ demo: true })), 120_000);
  afterAll(() => server.close());

  it('as recommended lets fewer than 1 of 100 wait, and is measured by hypervisor and broker', async () => {
    const { id } = await poolNamed('contact-centre');
    const before = await readinessOf(id);
    expect(before).toMatchObject({ isKept: false, measured: { onHours: 6720, hostHours: 6720, saved: 0 } });
    await keep(id, { week: always('off') });
    const from = server.now;
    await server.advance(7 * 24 * 60);
    const { measured, leads, notes } = await readinessOf(id);
    const sum = (of: (hour: Readiness['measured']['hours'][number]) => number) =>
      measured.hours.reduce((total, hour) => total + of(hour), 0);
    expect(measured.hours.length).toBe(168);
    const [signIns, waited] = [sum((hour) => hour.signIns), sum((hour) => hour.waited)];
    // Sessions are 175 to 350 and last two and a half hours: some 2,500 people a day.
    expect(signIns).toBeGreaterThan(15_000);
    expect(waited / signIns).toBeLessThan(0.01);
    // 40 hosts for 168 hours; the price of a host hour is 0.24.
    expect([measured.from - from, measured.hostHours]).toEqual([0, 6720]);
    expect(measured.onHours).toBeGreaterThan(4_500);
    expect(measured.onHours).toBeLessThan(5_700);
    expect(measured.saved).toBeCloseTo((6720 - measured.onHours) * 0.24, 6);
    expect(leads.start.measured).toBe(50);
    expect(notes.some((note) => /^WCL-CC-\d+ started: \d+ are needed$/.test(note.text))).toBe(true);
  }, 240_000);

  it('recommends other spares when hosts take longer to start', async () => {
    const { id } = await poolNamed('contact-centre');
    const spares = async () => {
      const { facts, leads, rules } = await readinessOf(id);
      const lead = { start: leads.start.p90Minutes, resume: 1, make: leads.make.p90Minutes };
      return sparesAt({ ...facts, leads: lead }, rules, 1, 4);
    };
    const before = await spares();
    await server.app.db
      .insertInto('lead_time')
      .values(byHour(0).map((_, i) => ({ pool_id: id, kind: 'start', at_ms: server.now + i, minutes: 15 })))
      .execute();
    // 231 come in the hour from 5 on: in 2.3 minutes 9 on average, which 17 seats hold, in 16 62, which 81 do.
    expect([before, await spares()]).toEqual([2, 9]);
  });
});

describe('hosts of a kept pool', () => {
  let id: string;
  beforeEach(async () => {
    server = await TestServer.open({ demo: true });
    ({ id } = await poolNamed('desk-staff'));
  }, 120_000);
  afterEach(() => server.close());

  it('are emptied, switched off, and started again, and everybody outside is told', async () => {
    await keep(id, { week: always('off'), leastOn: byHour(20), spares: byHour(0), reserve: 0 });
    await server.advance(1);
    // At eight 82 of 100 of 236 people are there; four hosts of 24 are not needed at once.
    expect(await states(id)).toEqual({ 'in service': 20, draining: 4 });
    expect([...outside('desk-staff').values()].filter((row) => row.takes === 0)).toHaveLength(4);
    await server.advance(300);
    expect(await states(id)).toEqual({ 'in service': 20, off: 4 });
    expect([...outside('desk-staff').values()].filter((row) => row.power === 'off')).toHaveLength(4);
    await keep(id, { week: always('on') });
    await server.advance(5);
    expect(await states(id)).toEqual({ 'in service': 24 });
    expect([...outside('desk-staff').values()]).toEqual(
      Array.from({ length: 24 }, () => ({ power: 'on', takes: 1 })),
    );
  });

  it('that are suspended keep their memory on the datastore, and none of it afterwards', async () => {
    const memory = () =>
      server.outside<{ bytes: number }>(
        `select size_bytes as bytes from disk where role = 'memory' and site = 'yard-a' and datastore = 'standard'`,
      );
    await keep(id, { week: always('suspended'), leastOn: byHour(22), spares: byHour(0), reserve: 0 });
    await server.advance(300);
    expect(await states(id)).toEqual({ 'in service': 22, suspended: 2 });
    const there = memory();
    const size = (await get<PoolDetail>(`/pools/${id}`)).settings.size;
    const bytes = (await estate().hypervisor.sites())
      .find((site) => site.name === 'yard-a')
      ?.sizes.find((one) => one.name === size)?.memoryBytes;
    expect(there.map((disk) => disk.bytes)).toEqual([bytes, bytes]);
    await keep(id, { leastOn: byHour(24) });
    await server.advance(5);
    expect([await states(id), memory()]).toEqual([{ 'in service': 24 }, []]);
    expect((await readinessOf(id)).measured.suspendedHours).toBeGreaterThan(4);
  });

  it('are let alone by whoever holds them back', async () => {
    await keep(id, { week: always('off'), leastOn: byHour(20), spares: byHour(0), reserve: 0 });
    await server.advance(300);
    const off = (await hostsOf(get, id)).filter((host) => host.state === 'off').map((host) => host.name);
    await server.send('post', `/pools/${id}/actions`, { action: 'hold', hosts: off.slice(0, 3) });
    await keep(id, { week: always('on') });
    await server.advance(5);
    expect(await states(id)).toEqual({ 'in service': 21, off: 3 });
    await server.send('post', `/pools/${id}/actions`, { action: 'let in', hosts: off.slice(0, 3) });
    await server.advance(5);
    expect(await states(id)).toEqual({ 'in service': 24 });
  });

  it('that do not start are out of service, and the journal says why', async () => {
    await keep(id, { week: always('off'), leastOn: byHour(23), spares: byHour(0), reserve: 0 });
    await server.advance(300);
    await server.send('post', '/estate/faults', { kind: 'fail next', target: 'power' });
    await keep(id, { week: always('on') });
    await server.advance(5);
    const failed = (await hostsOf(get, id)).filter((host) => host.state === 'failed');
    expect(failed.map((host) => host.note)).toEqual([
      'the call "power" failed (a fault switched on for practice)',
    ]);
    const journal = await get<Page<{ text: string }>>('/journal?limit=20');
    expect(journal.rows.map((row) => row.text)).toContain(
      `${failed[0]?.name} failed starting: the call "power" failed (a fault switched on for practice)`,
    );
  });

  it('stand as they should after a stop at any minute of it', async () => {
    await keep(id, { week: always('off'), leastOn: byHour(14), spares: byHour(0), reserve: 0 });
    await server.advance(11 * 60);
    for (let i = 0; i < 12; i++) {
      await server.advance(i % 3 === 0 ? 1 : 0.4);
      if (i === 4) await keep(id, { leastOn: byHour(22) });
      if (i === 8) await keep(id, { leastOn: byHour(15) });
      await server.restart({ demo: true });
    }
    await server.advance(300);
    expect((await readinessOf(id)).errands).toEqual([]);
    expect(await states(id)).toEqual({ 'in service': 15, off: 9 });
    const there = outside('desk-staff');
    for (const host of await hostsOf(get, id))
      expect([host.name, there.get(host.name)]).toEqual([
        host.name,
        host.state === 'off' ? { power: 'off', takes: 0 } : { power: 'on', takes: 1 },
      ]);
  });

  it('are left alone once nobody keeps the pool ready any more', async () => {
    await keep(id, { week: always('off'), leastOn: byHour(20), spares: byHour(0), reserve: 0 });
    await server.advance(300);
    await keep(id, { week: always('on') }, false);
    await server.advance(60);
    expect(await states(id)).toEqual({ 'in service': 20, off: 4 });
  });
});

describe('hosts that are made when people come', () => {
  beforeAll(async () => (server = await TestServer.open({ demo: true })), 120_000);
  afterAll(() => server.close());

  it('are made like the others, and deleted when nobody has needed them for long', async () => {
    const version = (await poolNamed('reading-rooms')).blend?.imageVersionId;
    const { poolId, jobId } = await server.send<{ poolId: string; jobId: string }>(
      'post',
      '/pools',
      smallPool('reserve', version, 'WCL-RS-##', 2),
    );
    expect(await server.untilEnded(jobId)).toMatchObject({ state: 'done' });
    await keep(poolId, {
      week: always('off'),
      mostHosts: 6,
      fewestHosts: 2,
      deleteAfterMinutes: 30,
      spares: byHour(3),
    });
    await server.advance(30);
    // Two hosts carry ten sessions, of which office people use seven at most: two, and three spares.
    const many = (await hostsOf(get, poolId)).length;
    expect(many).toBeGreaterThan(3);
    const [job] = (await get<PoolDetail>(`/pools/${poolId}`)).jobs.filter((one) => one.kind === 'add hosts');
    expect(job).toMatchObject({ state: 'done' });
    const ledger = await ledgerOf(get, job?.id ?? '');
    expect(new Set(ledger.map((row) => `${row.system} ${row.state}`))).toEqual(
      new Set(['hypervisor made', 'directory made', 'broker made', 'agent made']),
    );
    // Two were made with the pool, the others since.
    expect((await readinessOf(poolId)).leads.make.measured).toBe(many);
    await keep(poolId, { spares: byHour(0), leastOn: byHour(0) });
    await server.advance(16 * 60);
    expect((await hostsOf(get, poolId)).length).toBe(2);
    expect(
      (await estate().hypervisor.machineNames()).filter((name) => name.startsWith('WCL-RS-')),
    ).toHaveLength(2);
    expect(
      (await estate().directory.computerNames()).filter((name) => name.startsWith('WCL-RS-')),
    ).toHaveLength(2);
  });

  it('are not tried again for an hour when one could not be made', async () => {
    const { id } = await poolNamed('reserve');
    await server.send('post', '/estate/faults', { kind: 'fail next', target: 'clone' });
    await keep(id, { spares: byHour(4), leastOn: byHour(5) });
    const made = async () =>
      (await get<Job[]>('/jobs?limit=200')).filter((job) => job.kind === 'add hosts').length;
    const before = await made();
    await server.advance(40);
    expect(await made()).toBe(before + 1);
    expect((await readinessOf(id)).notes[0]?.text).toContain('the last one could not be made');
    await server.advance(60);
    expect(await made()).toBeGreaterThan(before + 1);
  });
});

describe('more hosts of a pool', () => {
  beforeAll(async () => (server = await TestServer.open({ demo: true })), 120_000);
  afterAll(() => server.close());

  it('have the next free names, the blend of the others and its packages', async () => {
    const pool = await poolNamed('desk-staff');
    const preview = await server.send<HostsPreview>('post', `/pools/${pool.id}/more/preview`, { count: 2 });
    expect([preview.names, preview.faults, preview.fit?.fits]).toEqual([
      ['WCL-DS-025', 'WCL-DS-026'],
      [],
      true,
    ]);
    const { jobId } = await server.send<{ jobId: string }>('post', `/pools/${pool.id}/more`, { count: 2 });
    expect(await server.untilEnded(jobId)).toMatchObject({ state: 'done' });
    const host = (await hostsOf(get, pool.id)).find((one: Host) => one.name === 'WCL-DS-025');
    expect(host).toMatchObject({ state: 'in service', blend: pool.blend?.number });
    const mounts = await get<{ missing: unknown[]; mounts: unknown[] }>('/hosts/WCL-DS-025/mounts');
    expect([mounts.missing, mounts.mounts.length]).toEqual([[], pool.blend?.packages.length]);
  });

  it('of which one cannot be made are taken back whole, and the pool stays', async () => {
    const pool = await poolNamed('pilot-bench');
    await server.send('post', '/estate/faults', { kind: 'fail next', target: 'clone' });
    const { jobId } = await server.send<{ jobId: string }>('post', `/pools/${pool.id}/more`, { count: 3 });
    expect(await server.untilEnded(jobId)).toMatchObject({ state: 'failed' });
    const made = async () => (await hostsOf((path) => server.getAnew(path), pool.id)).length;
    expect(await made()).toBe(8);
    const { jobId: undoing } = await server.send<{ jobId: string }>('post', `/jobs/${jobId}/undo`);
    expect(await server.untilEnded(undoing)).toMatchObject({ state: 'done' });
    expect(await made()).toBe(6);
    const left = async (names: Promise<readonly string[]>) =>
      (await names).filter((name) => name.startsWith('WCL-PB-')).length;
    expect(await left(estate().hypervisor.machineNames())).toBe(6);
    expect(await left(estate().directory.computerNames())).toBe(6);
    const preview = await server.send<HostsPreview>('post', `/pools/${pool.id}/more/preview`, { count: 1 });
    expect(preview.names).toEqual(['WCL-PB-07']);
  });

  it('that do not fit, are none, or too many are refused at their number', async () => {
    const { id } = await poolNamed('reading-rooms');
    const refused = (count: number) => server.refused('post', `/pools/${id}/more`, { count });
    expect((await refused(11)).faults).toEqual([
      {
        path: 'count',
        message: '11 do not fit: not enough cores on yard-b; the largest batch that fits is 10',
      },
    ]);
    expect((await refused(0)).paths).toEqual(['count']);
    expect((await refused(10_001)).paths).toEqual(['count']);
    const streamed = await poolNamed('digitisation');
    const slots = await server.refused('post', `/pools/${streamed.id}/more`, { count: 1 });
    expect(slots.faults.map((fault) => fault.path)).toContain('slots');
  });
});

describe('rules', () => {
  beforeAll(async () => (server = await TestServer.open({ demo: true })), 120_000);
  afterAll(() => server.close());

  it('that cannot be are refused at their field, and nothing is kept', async () => {
    const { id } = await poolNamed('contact-centre');
    const { rules } = await readinessOf(id);
    const refused = async (change: object) =>
      (
        await server.refused('put', `/pools/${id}/readiness`, {
          rules: { ...rules, ...change },
          isKept: true,
          basedOn: 0,
        })
      ).paths;
    expect(await refused({ week: always('off').slice(1) })).toEqual(['rules.week']);
    expect(await refused({ week: always('off').map((day) => day.slice(2)) })).toContain('rules.week.0');
    expect(await refused({ leastOn: byHour(1).slice(1) })).toEqual(['rules.leastOn']);
    expect(await refused({ leastOn: byHour(41) })).toEqual(['rules.leastOn']);
    expect(await refused({ mostHosts: 10 })).toEqual(['rules.mostHosts']);
    expect(await refused({ mostHosts: 10_001 })).toEqual(['rules.mostHosts']);
    expect(await refused({ deleteAfterMinutes: 5 })).toEqual(['rules.deleteAfterMinutes']);
    expect(await refused({ drainMinutes: 0 })).toEqual(['rules.drainMinutes']);
    expect(await refused({ reserve: -0.1 })).toEqual(['rules.reserve']);
    expect((await readinessOf(id)).revision).toBe(0);
  });

  it('of dedicated hosts make and delete none', async () => {
    const { id } = await poolNamed('map-lab');
    const { rules, revision } = await readinessOf(id);
    const problem = await server.refused('put', `/pools/${id}/readiness`, {
      rules: { ...rules, mostHosts: 9, deleteAfterMinutes: 60 },
      isKept: true,
      basedOn: revision,
    });
    expect(problem.paths).toEqual(['rules.mostHosts', 'rules.deleteAfterMinutes']);
  });

  it('of two people at once are those of the first, and the second is told', async () => {
    const { id } = await poolNamed('pilot-bench');
    const { rules } = await readinessOf(id);
    const body = { rules, isKept: false, basedOn: 0 };
    await server.send('put', `/pools/${id}/readiness`, body);
    expect(await server.refused('put', `/pools/${id}/readiness`, body)).toMatchObject({
      status: 409,
      paths: ['basedOn'],
    });
  });
});

describe('dedicated hosts of the demo', () => {
  beforeAll(async () => (server = await TestServer.open({ demo: true })), 120_000);
  afterAll(() => server.close());

  it('have been off at night for a week, which is measured, and are off again this night', async () => {
    const { id } = await poolNamed('map-lab');
    const { measured, isKept } = await readinessOf(id);
    // Seven nights from 19:00 to 06:40 on eight hosts: 7 × 8 × 11 2/3 hours less than all.
    expect([isKept, measured.hostHours]).toEqual([true, 1344]);
    expect(measured.onHours).toBeCloseTo(1344 - 7 * 8 * (11 + 2 / 3), 6);
    expect(measured.saved).toBeCloseTo(7 * 8 * (11 + 2 / 3) * 0.95, 6);
    await server.advance(14 * 60);
    expect(await states(id)).toEqual({ off: 8 });
    await server.advance(9 * 60);
    expect(await states(id)).toEqual({ 'in service': 8 });
  });
});
