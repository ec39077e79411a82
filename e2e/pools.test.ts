/** Keeping pools right: spares and power, more hosts, physical machines, and images streamed to many. */
import { describe, expect, it } from 'vitest';
import type { PoolDetail, PoolSummary } from '@vatline/contract/pool/endpoints';
import type { Streaming } from '@vatline/contract/pool/streaming';
import type { RunningApp } from '../server/test/running-app.ts';
import type { Visitor } from './browser.ts';
import { beginJourney } from './journey.ts';

let app: RunningApp;
let visitor: Visitor;
const { open, skipUntil } = beginJourney((started) => ({ app, visitor } = started));

async function poolNamed(name: string): Promise<PoolSummary> {
  const found = (await app.api<PoolSummary[]>('/pools')).find((pool) => pool.name === name);
  if (!found) throw new Error(`no ${name}`);
  return found;
}

const nothingActive = (name: string) => skipUntil(async () => (await poolNamed(name)).activeJob === null);

/** Sends the clock on from event to event until so many minutes have passed, or more. */
async function pass(minutes: number): Promise<void> {
  const clock = () => app.api<{ now: number }>('/estate/clock');
  const { now } = await clock();
  await skipUntil(async () => (await clock()).now >= now + minutes * 60_000);
}

describe('physical machines', () => {
  it('are found in their chassis, slot by slot; one answers only the second time', async () => {
    await open('/pools/chassis?chassis=rack-8');
    await visitor.answer('Nobody knows yet what stands in rack-8; look through it.');
    await visitor.click('Look through rack-8');
    await visitor.answer('Looking through rack-8: 0 of 16 slots asked.');
    await pass(7);
    await visitor.answer('15 machines of rack-8 are free to become hosts.');
    await visitor.sees('1 slot does not answer.');
    await visitor.click('Look through it again');
    await pass(7);
    await visitor.answer('16 machines of rack-8 are free to become hosts.');
  });

  it('become a pool on the usual bench, with names and accounts, streaming their image', async () => {
    await visitor.click('Choose all free');
    await visitor.sees('16 machines with 128 cores and 512 GB of memory together.');
    await visitor.click('Make a pool of the 16');
    await visitor.answer('Make a pool of machines of rack-8');
    await visitor.sees('slots 1 to 16 of rack-8 on rack-8');
    await visitor.type('Name of the pool', 'scanning');
    await visitor.type('Name pattern', 'WCL-SC-##');
    await visitor.choose('Image version', ', approved');
    await visitor.choose('Organisational unit', 'OU=Digitisation');
    await visitor.answer('16 hosts fit on rack-8, made in about');
    await visitor.sees(/Streams 16 20 4/);
    await visitor.click('Make 16 hosts');
    await visitor.sees(/Make 16 hosts of scanning/);
    await nothingActive('scanning');
    await visitor.answer(/every host is in service/);
    await open('/pools/chassis?chassis=rack-8');
    await visitor.answer('No machine of rack-8 is free.');
    await visitor.sees('16 machines are hosts.');
    await visitor.sees(/WR8-4100 8 32 GB WCL-SC-01 of scanning/);
  });

  it('are switched to another image at their next start, and back, from one place', async () => {
    const { id } = await poolNamed('scanning');
    const versions = async () =>
      (await app.api<Streaming>('/streaming')).pools.find((pool) => pool.id === id)?.versions ?? [];
    const [before] = (await versions()).filter((version) => version.hosts === 16);
    const other = (await versions()).find((version) => version.hosts === 0 && version.refusal === '');
    const switchTo = async (number: number, button: string) => {
      await visitor.choose('Another image for scanning', `${number}`);
      await visitor.click(button);
      await visitor.sees(
        new RegExp(`On the way to .* ${number} ?: 0 of 16 hosts have started with it, 16 wait`),
      );
      await app.api(`/pools/${id}/actions`, {
        action: 'restart',
        hosts: Array.from({ length: 16 }, (_, i) => `WCL-SC-${String(i + 1).padStart(2, '0')}`),
      });
      await nothingActive('scanning');
      await pass(3);
      await visitor.sees(new RegExp(`scanning 16 hosts from stream-8 [A-Z][a-z] ?${number} ?on all`));
    };
    await open('/pools/streaming');
    await visitor.sees('scanning 16 hosts from stream-8');
    await switchTo(other?.number ?? 0, 'Switch scanning at the next start');
    await switchTo(before?.number ?? 0, 'Switch scanning at the next start');
  });
});

describe('more hosts of a pool', () => {
  it('are looked at before they are made: names, room, minutes', async () => {
    const { id } = await poolNamed('desk-staff');
    await open(`/pools/${id}/more`);
    await visitor.answer(/1 host more fits, made in about/);
    await visitor.type('Hosts more', '9000');
    await visitor.answer(/9,?000 hosts more do not fit/);
    await visitor.type('Hosts more', '2');
    await visitor.answer(/2 hosts more fit, made in about/);
    await visitor.click('Make 2 hosts more');
    await visitor.sees(/Make 2 hosts more of desk-staff/);
    await nothingActive('desk-staff');
    await visitor.sees('desk-staff Wa 14 26 hosts');
  });
});

describe('settings of a pool that is there', () => {
  it('say what reaches whom before they are kept, and what cannot be changed any more', async () => {
    const { id } = await poolNamed('map-lab');
    await open(`/pools/${id}/settings`);
    await visitor.answer('What map-lab is, and what its hosts are made with.');
    await visitor.type('Idle limit, minutes', '45');
    await visitor.type('Days between rebuilds', '14');
    await visitor.answer('1 change at once, 1 for hosts that are made from then on.');
    await visitor.sees('The 8 hosts there stay as they are until they are made anew.');
    await visitor.clickText('linked');
    await visitor.answer('1 change cannot be made while map-lab has hosts.');
    await visitor.sees('make another pool beside it');
    await visitor.click('Drop the changes');
    await visitor.type('Idle limit, minutes', '45');
    await visitor.click('Keep 1 change');
    await visitor.answer('What map-lab is, and what its hosts are made with.');
    await open(`/pools/${id}`);
    await visitor.click('Hold what it is made from');
    await visitor.type('Why no other image may come', 'exams until Friday');
    await visitor.click('Hold it');
    await visitor.sees('What it is made from is held exams until Friday');
    // What it runs may be made anew; another image may not come.
    const { blends, blend } = await app.api<PoolDetail>(`/pools/${id}`);
    const other = blends.find((one) => one.imageVersionId !== blend?.imageVersionId);
    await open(`/rollouts/new?pool=${id}&blend=${other?.id ?? ''}`);
    await visitor.sees('what map-lab is made from is held: exams until Friday');
  });
});

describe('spares and power', () => {
  it('are recommended, tried out on a day, and kept to', async () => {
    const { id } = await poolNamed('contact-centre');
    await open(`/pools/${id}/readiness`);
    await visitor.answer(/All 40 hosts of contact-centre are left on; \d+ are needed now\./);
    await visitor.sees('By the rules 7,008.00 All on 7,008.00 Saved 0.00, 0 %');
    // Painted, the day is tried out anew and the money is reckoned before anything is kept.
    await visitor.click('are switched off');
    await visitor.click('at every hour');
    await visitor.sees(/day tried out (Nobody|Under|\d+(\.\d+)? %)/);
    const saved = await visitor.sees(/Saved \d[\d,.]*, (\d+) %/);
    expect(Number(/(\d+) %/.exec(saved)?.[1])).toBeGreaterThan(15);
    await visitor.type('Hosts at most', '10');
    await visitor.sees('is less than the fewest, 40');
    await visitor.type('Hosts at most', '40');
    await visitor.click('Keep contact-centre ready by these rules');
    await visitor.sees('Leave its hosts alone');
    await pass(14 * 60);
    await visitor.sees(/emptied, to be switched off/);
    await visitor.sees(/Hosts on [\d,]+ of 6,720 host hours, 9\d %/);
  });
});

describe('capacity', () => {
  it('is taken from a provider, with a network that overlaps none, and is there for a pool', async () => {
    await open('/estate/capacity');
    await visitor.answer(/cores free on 2 sites; 4 regions could be taken\./);
    await visitor.choose('Region', 'north, Orrinside');
    await visitor.sees('160 cores, 1.3 TB');
    await visitor.type('Range of network 1', '10.20.5.0/24');
    await visitor.sees('overlaps desks of yard-a, 10.20.4.0/23');
    await visitor.type('Range of network 1', '10.30.4.0/24');
    await visitor.sees('room for 253 machines');
    await visitor.click('Add north-1');
    await visitor.sees(/north-1 a site in north of Orrinside asked .* not answered yet/);
    await pass(20);
    await visitor.answer(/cores free on 3 sites; 3 regions could be taken\./);
    await visitor.sees('north-1 desks 10.30.4.0/24 253 of 253 used by nobody');
    await open('/pools/new');
    await visitor.choose('Site', 'north-1, 160 of 160 cores free');
  });
});
