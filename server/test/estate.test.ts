/** The practice estate through its driver: what every real driver has to hold to as well. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { estatePlan } from '@vatline/demo/estate';
import type { Operation } from '../src/estate/driver/operations.ts';
import { PracticeEstate } from '../src/estate/practice/practice-estate.ts';
import { leanHardware } from '@vatline/core/image/hardware';
import { MINUTE, recipe } from './harness.ts';

let folder: string;
let estate: PracticeEstate;
const open = () => PracticeEstate.open(join(folder, 'estate.sqlite'), estatePlan(), () => 0);

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'vatline-estate-'));
  estate = await open();
});
afterEach(async () => {
  await estate.close();
  rmSync(folder, { recursive: true, force: true });
});

const spec = {
  name: 'BUILD-1',
  site: 'yard-a',
  datastore: 'standard',
  hardware: { ...leanHardware, processors: 4 },
};
const cores = async () =>
  (await estate.hypervisor.sites()).find((site) => site.name === 'yard-a')?.cores.used;
const minutes = (n: number) => estate.clock.advanceTo(estate.clock.now() + n * MINUTE);

describe('the clock', () => {
  it('wakes in order, waits for those who react, and never goes back', async () => {
    const start = estate.clock.now();
    const seen: string[] = [];
    estate.clock.wakeAt(start + 20 * MINUTE, 'later', () => Promise.resolve(void seen.push('later')));
    estate.clock.wakeAt(start + 10 * MINUTE, 'sooner', async () => {
      await new Promise((done) => setImmediate(done));
      seen.push('sooner');
      estate.clock.wakeAt(start + 15 * MINUTE, 'between', () => Promise.resolve(void seen.push('between')));
    });
    await minutes(30);
    expect(seen).toEqual(['sooner', 'between', 'later']);
    expect(estate.clock.now()).toBe(start + 30 * MINUTE);
    await estate.clock.advanceTo(start);
    expect(estate.clock.now()).toBe(start + 30 * MINUTE);
  });

  it('stands still while somebody holds it', async () => {
    const release = estate.clock.hold();
    const moving = minutes(5).then(() => 'moved');
    expect(await Promise.race([moving, new Promise((done) => setTimeout(done, 30))])).toBeUndefined();
    release();
    expect(await moving).toBe('moved');
  });

  it('is where it was after the server is gone, with its operations', async () => {
    const id = await estate.hypervisor.createMachine('k', spec);
    await estate.hypervisor.power('p', id, 'on');
    await minutes(0.2);
    const at = estate.clock.now();
    await estate.close();
    estate = await open();
    expect(estate.clock.now()).toBe(at);
    const ended: string[] = [];
    estate.operations.onEnd((operation) => Promise.resolve(void ended.push(operation.key)));
    await minutes(5);
    expect(ended).toEqual(['p']);
    expect(await estate.hypervisor.machine(id)).toMatchObject({ power: 'on' });
  });
});

describe('an operation', () => {
  it('is begun once for a key, takes its time, and ends the same on another machine', async () => {
    const id = await estate.hypervisor.createMachine('k', spec);
    expect(await estate.hypervisor.createMachine('k', spec)).toBe(id);
    const first = await estate.hypervisor.copy('copy-1', id, 'COPY');
    expect(await estate.hypervisor.copy('copy-1', id, 'COPY')).toEqual(first);
    await minutes(1);
    expect((await estate.operations.get('copy-1'))?.state).toBe('running');
    await minutes(20);
    const ended = (await estate.operations.get('copy-1')) as Operation;
    expect(ended).toMatchObject({ state: 'done', error: null });
    expect((await estate.hypervisor.machineNames()).filter((name) => name === 'COPY')).toHaveLength(1);

    const other = await PracticeEstate.open(join(folder, 'other.sqlite'), estatePlan(), () => 0);
    await other.hypervisor.createMachine('k', spec);
    await other.hypervisor.copy('copy-1', id, 'COPY');
    await other.clock.advanceTo(estate.clock.now());
    expect((await other.operations.get('copy-1'))?.endedAt).toBe(ended.endedAt);
    await other.close();
  });

  it('takes a "fail next" fault once, and says that it was for practice', async () => {
    const id = await estate.hypervisor.createMachine('k', spec);
    await estate.addFault({ kind: 'fail next', target: 'power' });
    await estate.hypervisor.power('p1', id, 'on');
    await estate.hypervisor.power('p2', id, 'on');
    await minutes(5);
    expect(await estate.operations.get('p1')).toMatchObject({ state: 'failed', error: { kind: 'failed' } });
    expect(await estate.operations.get('p2')).toMatchObject({ state: 'done' });
    expect(await estate.faults()).toEqual([]);
  });
});

describe('the hypervisor', () => {
  it('counts cores, those of machines being made too, and refuses what does not fit', async () => {
    const before = (await cores()) ?? 0;
    await estate.hypervisor.createMachine('k', spec);
    expect(await cores()).toBe(before + 4);
    const refused = estate.hypervisor.createMachine('big', {
      ...spec,
      name: 'BIG',
      hardware: { ...leanHardware, processors: 700 },
    });
    await expect(refused).rejects.toMatchObject({ kind: 'quota' });
    await expect(refused).rejects.toThrow(`it needs 700 cores and ${640 - before - 4} of 640 are free`);
    await expect(estate.hypervisor.createMachine('same', spec)).rejects.toMatchObject({ kind: 'conflict' });
    const { id: imageId } = await estate.seed.image(recipe, 'image');
    const disks = {
      kind: 'linked',
      datastore: 'standard',
      parentDatastore: 'standard',
      data: null,
      returnsToClean: false,
    } as const;
    const place = { site: 'yard-a', network: 'desks', imageId, disks };
    const clone = { ...place, memoryBytes: 8e9, graphics: 0, processors: 300 };
    await estate.hypervisor.clone('c1', { ...clone, name: 'C1' });
    const second = estate.hypervisor.clone('c2', { ...clone, name: 'C2', processors: 340 - before });
    await expect(second).rejects.toMatchObject({ kind: 'quota' });
  });

  it('a quota fault refuses every machine of its site until it is removed', async () => {
    const { id } = await estate.addFault({ kind: 'quota exhausted', target: 'yard-a' });
    await expect(estate.hypervisor.createMachine('k', spec)).rejects.toThrow('its core quota is exhausted');
    await estate.hypervisor.createMachine('b', { ...spec, name: 'BUILD-2', site: 'yard-b' });
    expect(await estate.removeFault(id)).toBe(true);
    expect(await estate.removeFault(id)).toBe(false);
    await estate.hypervisor.createMachine('k', spec);
  });

  it('runs steps; a snapshot is what the machine was, also after later steps', async () => {
    const id = await estate.hypervisor.createMachine('k', spec);
    for (const step of recipe.slice(0, 3)) {
      await estate.hypervisor.runStep(`s-${step.id}`, id, step);
      await minutes(40);
    }
    expect(await estate.hypervisor.machine(id)).toMatchObject({
      joined: true,
      agent: false,
      restartPending: true,
    });
    const snapshot = await estate.hypervisor.snapshot('snap', id);
    for (const step of recipe.slice(3)) {
      await estate.hypervisor.runStep(`s-${step.id}`, id, step);
      await minutes(40);
    }
    expect(await estate.hypervisor.machine(id)).toMatchObject({ agent: true, restartPending: false });
    await estate.hypervisor.revert('back', id, snapshot);
    await minutes(5);
    expect(await estate.hypervisor.machine(id)).toMatchObject({ agent: false, restartPending: true });
  });

  it('generalises a copy and leaves the original joined; the same steps give the same image', async () => {
    const id = await estate.hypervisor.createMachine('k', spec);
    for (const step of recipe) {
      await estate.hypervisor.runStep(`s-${step.id}`, id, step);
      await minutes(40);
    }
    const copied = await estate.hypervisor.copy('copy', id, 'COPY');
    await minutes(15);
    const copy = (await estate.operations.get(copied.key))?.result ?? '';
    await estate.hypervisor.generalise('gen', copy);
    await minutes(10);
    expect(await estate.hypervisor.machine(copy)).toMatchObject({ joined: false });
    expect(await estate.hypervisor.machine(id)).toMatchObject({ joined: true });
    await estate.hypervisor.capture('cap', copy);
    await minutes(10);
    const image = await estate.hypervisor.image((await estate.operations.get('cap'))?.result ?? '');
    const seeded = await estate.seed.image(recipe, 'the same steps');
    expect(image?.entries).toEqual(seeded.entries);
    expect(image?.sizeBytes).toBe(seeded.sizeBytes);
  });

  it.each([
    ['an application without a silent switch', { command: 'setup.exe' }, 'waited 30 minutes for a click'],
    ['an exit code that was not expected', { exitCodes: [7] }, 'ended with exit 0; the step takes 7'],
  ])('%s fails and leaves the machine as it was', async (_what, change, reason) => {
    const id = await estate.hypervisor.createMachine('k', spec);
    const application = {
      id: 'app',
      kind: 'application' as const,
      name: 'Pellam Reader',
      publisher: 'Pellam',
      version: '9.0',
      command: 'setup.exe /quiet',
      exitCodes: [0],
      ...change,
    };
    await estate.hypervisor.runStep('s', id, application);
    await minutes(60);
    const operation = await estate.operations.get('s');
    expect(operation?.state).toBe('failed');
    expect(operation?.error?.message).toContain(reason);
  });
});

describe('the directory, the broker and the agents', () => {
  const ou = 'OU=Desks,OU=Hosts,DC=wrenfield,DC=example';

  it('makes an account once, refuses an unknown unit and a name taken elsewhere', async () => {
    await estate.directory.createComputer('k', 'WCL-X-1', ou, null);
    await estate.directory.createComputer('k', 'WCL-X-1', ou, null);
    expect((await estate.directory.computerNames()).filter((name) => name === 'WCL-X-1')).toHaveLength(1);
    const build = 'OU=Build,OU=Hosts,DC=wrenfield,DC=example';
    await expect(estate.directory.createComputer('k2', 'WCL-X-1', build, null)).rejects.toMatchObject({
      kind: 'conflict',
    });
    const nowhere = estate.directory.createComputer(
      'k3',
      'WCL-X-2',
      'OU=Nowhere,DC=wrenfield,DC=example',
      null,
    );
    await expect(nowhere).rejects.toMatchObject({ kind: 'not found' });
    await estate.directory.deleteComputer('k', 'WCL-X-1', null);
    await estate.directory.join('j', 'WCL-X-1');
    await minutes(10);
    expect((await estate.operations.get('j'))?.error?.message).toContain('no computer account WCL-X-1');
  });

  it('has 1,900 people and works out a rule group from its rule', async () => {
    expect(await estate.directory.counts()).toMatchObject({ users: 1900 });
    const tarnside = (await estate.directory.groups()).find((group) => group.name.includes('Tarnside'));
    expect(tarnside?.users.length).toBeGreaterThan(0);
    for (const account of tarnside?.users.slice(0, 5) ?? [])
      expect((await estate.directory.person(account))?.branch).toBe('Tarnside');
  });

  it('agents answer within five minutes of their check; a silent one is given up after fifteen', async () => {
    await estate.broker.register('r', 'desk', 'WCL-X-1');
    await estate.addFault({ kind: 'agent silent', target: 'WCL-X-2' });
    const begun = estate.clock.now();
    await estate.agents.verify('well', 'WCL-X-1');
    await estate.agents.verify('silent', 'WCL-X-2');
    await minutes(20);
    const [well, silent] = [await estate.operations.get('well'), await estate.operations.get('silent')];
    expect(well?.state).toBe('done');
    expect((well?.endedAt ?? 0) - begun).toBeLessThanOrEqual(5 * MINUTE);
    expect(silent?.error).toMatchObject({ kind: 'timeout' });
    expect((silent?.endedAt ?? 0) - begun).toBe(15 * MINUTE);
    expect(await estate.agents.silent()).toEqual(['WCL-X-2']);
  });
});

describe('people at work', () => {
  const names = Array.from({ length: 400 }, (_, i) => `WCL-S-${i}`);
  const load = { pool: 'somewhere', hosts: 400, taking: 400, limit: 10 };

  it('follow the curve of the day, shared out over the hosts that take them', async () => {
    const curve = await estate.activity.expected('somewhere', 400, 10);
    const sessions = await estate.activity.sessions(load, names);
    const total = [...sessions.values()].reduce((sum, n) => sum + n, 0);
    // Eight o'clock: 55 % of an office's peak, 1,540 of 4,000 seats.
    expect(curve[8]).toBe(1540);
    expect(Math.abs(total - 1540)).toBeLessThan(60);
    const half = await estate.activity.sessions({ ...load, taking: 200 }, names.slice(0, 200));
    expect(Math.abs([...half.values()].reduce((sum, n) => sum + n, 0) - 1540)).toBeLessThan(60);
    expect(Math.max(...half.values())).toBeLessThanOrEqual(10);
  });

  it('one host asked alone has what it has among all', async () => {
    const all = await estate.activity.sessions(load, names);
    const one = await estate.activity.sessions(load, ['WCL-S-7']);
    expect(one.get('WCL-S-7')).toBe(all.get('WCL-S-7'));
  });

  it('a drain ends when the last has gone, at once when nobody is there, at the limit at latest', async () => {
    await estate.activity.drain('empty', 'somewhere', 'WCL-S-1', 0, 60);
    await estate.activity.drain('full', 'somewhere', 'WCL-S-2', 10, 60);
    await estate.activity.drain('short', 'somewhere', 'WCL-S-3', 10, 1);
    await minutes(61);
    const length = async (key: string) => {
      const operation = await estate.operations.get(key);
      return ((operation?.endedAt ?? NaN) - (operation?.startedAt ?? 0)) / MINUTE;
    };
    expect(await length('empty')).toBe(0);
    expect(await length('full')).toBeGreaterThan(5);
    expect(await length('full')).toBeLessThanOrEqual(60);
    expect(await length('short')).toBe(1);
  });
});
