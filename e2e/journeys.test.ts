import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { leanHardware } from '@vatline/core/image/hardware';
import { writeOvf } from '@vatline/core/image/ovf/write-ovf';
import type { Page } from '@vatline/contract/page';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { Rollout } from '@vatline/contract/rollout';
import type { RunningApp } from '../server/test/running-app.ts';
import { hostsOfRollout, personLike } from '../server/test/usual-requests.ts';
import type { Visitor } from './browser.ts';
import { beginJourney } from './journey.ts';
import { scanOfAnInstallation } from './installation.ts';

let app: RunningApp;
let visitor: Visitor;
const { open, speed, toNextWindow, skipUntil } = beginJourney((started) => ({ app, visitor } = started));

describe('home', () => {
  it('tells where the fleet stands, what comes next, and what needs a person', async () => {
    await visitor.page.goto(app.address);
    await visitor.answer('108 of 154 hosts run what they should.');
    await visitor.sees(/Next: 22 hosts of contact-centre, tonight 01:00 to 05:00, done by .* \(9 in 10\)/);
    await visitor.sees('Zinnet Browser 141.0 is out');
    await visitor.sees('contact-centre 22', '.tape');
  });

  it('is reached by keys, and so is everything else', async () => {
    await visitor.page.keyboard.press('4');
    await visitor.answer(/hosts? left/);
    await visitor.page.keyboard.press('h');
    await visitor.answer('108 of 154');
    await visitor.pressControl('k');
    await visitor.type('Find or do', 'map-lab pool');
    await visitor.sees(/^map-lab ?pool$/, '.found');
    await visitor.page.keyboard.press('Enter');
    await visitor.answer(/\d+ of 8 seats in use/);
    await visitor.page.keyboard.press('?');
    await visitor.sees('find anything or do anything');
    await visitor.page.keyboard.press('Escape');
  });
});

describe('an image', () => {
  it('a step that is dragged tells what the build would cost before it is dropped', async () => {
    await open('/images');
    await visitor.answer('Nothing to build');
    const handles = await visitor.page.$$('[aria-roledescription="sortable"]');
    const [from, to] = [await handles[9]?.boundingBox(), await handles[5]?.boundingBox()];
    if (!from || !to) throw new Error('the recipe shows no steps to drag');
    const x = from.x + from.width / 2;
    await visitor.page.mouse.move(x, from.y + from.height / 2);
    await visitor.page.mouse.down();
    await visitor.page.mouse.move(x, to.y + to.height / 2, { steps: 20 });
    const preview = await visitor.sees(/the next build takes (\d+ min), and \d+ steps from checkpoints/);
    await visitor.page.mouse.up();
    await visitor.answer(`The next build takes ${/\d+ min/.exec(preview)?.[0]}`);
    await visitor.sees('1 step moved since');
    await visitor.click('Drop the changes');
    await visitor.answer('Nothing to build');
  });

  it('a step is added: the waterline moves; built and cut, the comparison names exactly it', async () => {
    await open('/images');
    await visitor.answer('Nothing to build');
    await visitor.choose('Add a step', 'application');
    await visitor.type('Name', 'Pennisk Viewer');
    await visitor.answer(/The next build takes 11 min, not 1 h 9 min\./);
    await visitor.sees(/above: from checkpoints, saves (\d+ h )?\d+ min/);
    await visitor.sees('Nothing looks whether an application is there', '.evidence');
    await visitor.click('Look for their versions');
    await visitor.click('Keep as recipe 15');
    await visitor.sees('The machine is behind the recipe');
    await speed(600);
    await visitor.clickText('Build from step 13');
    await visitor.sees('The build machine is running', '.evidence');
    await visitor.click('Shut it down');
    await visitor.sees('All 41 checks hold.');
    await visitor.click('Cut version 16');
    await visitor.sees('Cut version 17');
    await speed(0);
    await visitor.click('Compare');
    await visitor.sees(/1 application added, 1 shortcut added, \d+ files added, \+[\d.]+ MB/);
    await visitor.sees('Pennisk Viewer', '.compare-table');
  });

  it('a check is switched off with a reason, stays told, and is switched on again', async () => {
    await open('/images');
    await visitor.clickText('Reader desktop');
    await visitor.sees('Nothing looks whether 2 applications are there', '.evidence');
    await visitor.click('Switch off');
    await visitor.type('Why it does not count here', 'no');
    await visitor.click('Switch off for Reader desktop');
    await visitor.sees('Say in a few words why it does not count here', '.evidence');
    await visitor.type('Why it does not count here', 'the kiosk shows both at once');
    await visitor.click('Switch off for Reader desktop');
    await visitor.sees('1 check switched off', '.evidence');
    await visitor.clickText('1 check switched off');
    await visitor.sees('the kiosk shows both at once', '.evidence');
    await visitor.click('Switch on again');
    await visitor.sees('Nothing looks whether 2 applications are there', '.evidence');
  });

  it('a schedule says what it will do before it is kept; a fault stands at its field', async () => {
    await open('/images');
    await visitor.clickText('Map workstation');
    await visitor.click('Schedule');
    await visitor.sees('It is cut by hand only.');
    await visitor.click('Cut it by a schedule');
    await visitor.sees('Kept like this, the next cut is on Sat 27 Mar 02:00');
    await visitor.click('Add the pilot');
    await visitor.sees('map-lab Sun 28 Mar 02:00 to 03:00');
    await visitor.type('Until', '02:00');
    await visitor.click('Keep the schedule');
    await visitor.sees('is the same as the start, so the window has no length');
    await visitor.type('Until', '05:00');
    await visitor.click('Keep the schedule');
    await visitor.sees('The next cut is on Sat 27 Mar 02:00');
    await visitor.sees('cut Map workstation', '.tape');
    await visitor.click('Cut by hand only');
    await visitor.sees('It is cut by hand only.');
  });

  it('versions: only an approver approves; what may go is told before it goes', async () => {
    await open('/images');
    await visitor.clickText('Reader desktop');
    await visitor.click('Versions');
    await visitor.choose('State of version 12', 'approved');
    await visitor.sees('an approver approves; you act as engineer');
    await visitor.choose('You act as', 'approver');
    await visitor.choose('State of version 12', 'approved');
    await visitor.sees(/approver, Mon 22 Mar/);
    await visitor.sees(/Then 5 versions would go, 6, 5, 4, 3, 2, and \d+ GB be freed\./);
    await visitor.type('Versions kept', '10');
    await visitor.sees(/Then 1 version would go, 2, and/);
    await visitor.click('Delete 1 version');
    await visitor.sees('Then nothing goes.');
  });

  it('its machine is sized from a recording, and written and read as OVF', async () => {
    await open('/images');
    await visitor.clickText('Map workstation');
    await visitor.click('Hardware');
    await visitor.give('Read a recording', 'wrong.csv', 'user;time;cpu\nann;2027-03-01T09:00;1');
    await visitor.sees('line 1: no column "memory"; found user, time, cpu');
    await visitor.click("Take the practice estate's");
    await visitor.sees(/1 person needs 1 processor and \d+ GB/);
    await visitor.sees('It has over one and a half times the processors and the memory it needs.');
    await visitor.give('Read an OVF file', 'bad.ovf', '<!DOCTYPE x><Envelope/>');
    await visitor.sees('declares a document type or entities');
    const hardware = { ...leanHardware, processors: 4, legacy: ['floppy drive' as const] };
    await visitor.give('Read an OVF file', 'maps.ovf', writeOvf('maps', hardware));
    await visitor.sees('maps.ovf was read.');
    await visitor.sees('The machine has a floppy drive', '.evidence');
    await visitor.click('Take them off');
    await visitor.answer(/The next build takes/);
    await visitor.click('Drop the changes');
    await visitor.answer('Nothing to build');
  });

  it('is written as text: a fault stands on its line, a step that is right moves the waterline', async () => {
    await open('/images');
    await visitor.click('As text');
    await visitor.toEndOfText();
    // The editor keeps the indentation of the line before.
    await visitor.page.keyboard.press('Home');
    await visitor.page.keyboard.type('  - id: settle-again\nkind: wait for settle\n');
    await visitor.sees(/1 fault: the steps beside are those of the last text without any/);
    await visitor.sees(/line \d+, column 5: steps\.\d+\.limitMinutes has no limitMinutes/);
    await visitor.answer('The text is no recipe yet.');
    await visitor.click('Recipe');
    await visitor.answer('The text is no recipe yet.');
    await visitor.click('As text');
    await visitor.sees('has no limitMinutes');
    await visitor.toEndOfText();
    await visitor.page.keyboard.type('limitMinutes: 10');
    await visitor.sees('Wait for settle', '.recipe-text .ladder');
    await visitor.answer(/The next build takes [45] min, not/);
    await visitor.click('Drop the changes');
    await visitor.answer('Nothing to build');
  });

  it('an empty recipe and a missing command are answered at their places', async () => {
    await open('/images/new');
    await visitor.type('Name', 'Bad input');
    await visitor.click('Begin the line');
    await visitor.answer('The recipe is empty.');
    await visitor.choose('Add a step', 'updates');
    await visitor.click('Keep as recipe 2');
    await visitor.sees('The first step must install the operating system', '.step');
  });
});

describe('a package', () => {
  it('is sent as two scans and an archive; wrong files are answered at their fields', async () => {
    const { before, after, payload } = scanOfAnInstallation(join(app.folder, 'installation'), 520);
    await open('/packages/new');
    await visitor.type('Name', 'Marlstone Ledger');
    await visitor.type('Publisher', 'Marlstone');
    await visitor.type('Version', '1.4');
    await visitor.attach('before', after);
    await visitor.attach('after', payload);
    await visitor.attach('payload', payload);
    await visitor.click('Upload and compare');
    await visitor.sees('line 1 is not the header of an inventory');
    await visitor.attach('before', before);
    await visitor.attach('after', after);
    await visitor.click('Upload and compare');
    await visitor.answer('Marlstone Ledger 1.4 suits a container.');
    await visitor.sees(/52\d changes on a clean machine/);
  });
});

describe('a pool', () => {
  it('is previewed name by name, refused where it does not fit, then made with a ledger', async () => {
    await open('/pools/new');
    await visitor.type('Name of the pool', 'records-office');
    await visitor.choose('Image version', 'Staff multi-session');
    await visitor.choose('Organisational unit', 'Desks');
    await visitor.choose('Joined by', 'join-desks');
    await visitor.choose('Site', 'yard-b');
    await visitor.choose('Machine size', 'desk-4');
    await visitor.type('Name pattern', 'WCL-RR-###');
    await visitor.sees('WCL-RR-001 and 7 more are taken');
    await visitor.type('Name pattern', 'WCL-RECORDS-OFFICE-##');
    await visitor.sees('a computer name holds 15');
    await visitor.type('Name pattern', 'WCL-RO-##');
    await visitor.sees('none is taken');
    await visitor.type('Hosts', '40');
    await visitor.answer('40 hosts do not fit on yard-b: 10 do; cores give out first.');
    // The change that is offered is taken, and then fewer are wanted after all.
    await visitor.clickText('Do that');
    await visitor.answer(/^10 hosts fit on yard-b, made in about \d+ min \(9 in 10: \d+ min\)\.$/);
    await visitor.type('Hosts', '4');
    await visitor.answer(/^4 hosts fit on yard-b, made in about \d+ min/);
    await speed(600);
    await visitor.click('Make 4 hosts');
    await visitor.answer(/\d+ of 48 seats in use; every host is in service\./);
    await speed(0);
    await visitor.clickText('show the log');
    await visitor.sees('made 17');
  });

  it('is joined by an account made just for its unit, which is refused at another', async () => {
    await open('/pools/directory');
    await visitor.answer(/units with computers have no account just for joining/);
    await visitor.clickText('Maps');
    await visitor.type('Name of the account', 'join-maps');
    await visitor.click('Make the account');
    await visitor.answer('1 of 6 units with computers has no account just for joining.');
    await visitor.clickText('Make a pool');
    await visitor.choose('Image version', 'Staff multi-session');
    await visitor.choose('Organisational unit', 'Maps');
    await visitor.choose('Joined by', 'join-maps');
    await visitor.sees('join-maps may create and delete computers in OU=Maps');
    await visitor.choose('Organisational unit', 'Desks');
    await visitor.sees('Join-maps may not create computers nor delete computers in OU=Desks');
    await visitor.clickText('Begin anew');
  });

  it('has its hosts held back and let in again, from the page that says what that does', async () => {
    const pool = (await app.api<PoolSummary[]>('/pools')).find((row) => row.name === 'reading-rooms');
    await open(`/pools/${pool?.id}`);
    await visitor.clickText('as a table');
    await visitor.click('Choose WCL-RR-001');
    await visitor.click('Choose WCL-RR-002');
    await visitor.clickText('Hold back');
    await visitor.sees('Nobody new comes to 2 hosts; whoever is there stays. 58 seats are left');
    await visitor.click('Hold back 2 hosts');
    await visitor.answer(/58 of 60 hosts in service/);
    await open('/pools');
    await visitor.clickText('2 held back');
    await visitor.sees('WCL-RR-002');
    await visitor.click('Choose WCL-RR-001');
    await visitor.click('Choose WCL-RR-002');
    await visitor.clickText('Let people in');
    await visitor.click('Let people in on 2 hosts');
    await visitor.answer(/every host is in service/);
  });

  it('that fails part way is undone, and nothing of it is left', async () => {
    await app.api('/estate/faults', { kind: 'fail next', target: 'register' });
    await open('/pools/new');
    await visitor.type('Name of the pool', 'half-made');
    await visitor.choose('Image version', 'Staff multi-session');
    await visitor.choose('Organisational unit', 'Desks');
    await visitor.choose('Site', 'yard-b');
    await visitor.choose('Machine size', 'desk-2');
    await visitor.type('Name pattern', 'WCL-HM-##');
    await visitor.type('Hosts', '2');
    await visitor.answer(/2 hosts fit/);
    await speed(600);
    await visitor.click('Make 2 hosts');
    await visitor.sees('Undo');
    await visitor.sees('failed 1');
    await visitor.click('Undo');
    await visitor.sees('Either its making was undone, and everything made for it was taken back');
    await speed(0);
    const pools = await app.api<PoolSummary[]>('/pools');
    expect(pools.map((row) => row.name)).not.toContain('half-made');
  });
});

describe('a rollout', () => {
  let rollout: string;

  it('a host whose agent is silent fails and is set aside', async () => {
    const [contact] = (await app.api<Rollout[]>('/rollouts')).filter((row) => row.pool === 'contact-centre');
    const hosts = await hostsOfRollout((path) => app.api(path), contact?.id ?? '');
    const silent = hosts.find((row) => row.stage === 'waiting')?.host.name ?? '';
    await app.api('/estate/faults', { kind: 'agent silent', target: silent });
    await open(`/rollouts/${contact?.id}`);
    await toNextWindow(contact?.id ?? '');
    await skipUntil(async () => (await app.api<Rollout>(`/rollouts/${contact?.id}`)).failed > 0);
    await visitor.sees(/1 failed/);
    await visitor.sees(`${silent} the agent on ${silent} has been silent for 15 minutes`, '.evidence');
    await visitor.click('Set aside');
    await visitor.sees(/1 set aside/);
    const { setAside, done } = await app.api<Rollout>(`/rollouts/${contact?.id}`);
    expect(setAside).toBe(1);
    await visitor.sees(`${done} done`);
    await open('/estate');
    await visitor.click(`Switch off agent silent ${silent}`);
    await visitor.sees('A fault is used up by the call it hits');
  });

  it('of 40 hosts in batches of 10 is forecast over two nights', async () => {
    // The demo has a rollout of this pool under way; it is ended first.
    const [contact] = (await app.api<Rollout[]>('/rollouts')).filter((row) => row.pool === 'contact-centre');
    await open(`/rollouts/${contact?.id}`);
    await visitor.click('Stop');
    // Hosts that the night has caught at work are finished first.
    await skipUntil(async () => (await app.api<Rollout>(`/rollouts/${contact?.id}`)).endedAt !== null);
    await visitor.answer(/ended/);
    const pool = (await app.api<PoolSummary[]>('/pools')).find((row) => row.name === 'contact-centre');
    await open(`/rollouts/new?pool=${pool?.id}`);
    await visitor.choose('Image version', '15');
    await visitor.type('Until', '01:00');
    await visitor.sees('is the same as the start, so the window has no length');
    await visitor.type('Until', '03:30');
    await visitor.type('Hosts at a time', '0');
    await visitor.sees('must be a whole number of at least 1');
    await visitor.type('Hosts at a time', '10');
    await visitor.type('At most out of service', '10');
    await visitor.answer(/Done by .* \(9 in 10\)/);
    await visitor.sees('What else would work');
    await visitor.sees('Uses 2 windows');
    await visitor.click('Roll out 40 hosts');
    await visitor.answer(/40 hosts left: begins tonight at 01:00/);
    rollout = visitor.page.url().split('/').pop() ?? '';
  });

  it('runs at 600×, is killed in the middle, goes on, and ends with every host done once', async () => {
    await toNextWindow(rollout);
    // Nine, for the host that was set aside counts as out of service.
    await visitor.answer(/0 of 40 hosts done, 9 at work/);
    await speed(600);
    await visitor.sees(/[1-9]\d* done/);
    await app.kill();
    await app.launch();
    await visitor.answer(/hosts? left: goes on tonight at 01:00/);
    await toNextWindow(rollout);
    await visitor.answer('40 of 40 hosts done');
    await speed(0);
    const hostList = await hostsOfRollout((path) => app.api(path), rollout);
    expect(hostList.every((row) => row.stage === 'done' && row.attempts === 1)).toBe(true);
    expect(new Set(hostList.map((row) => new Date(row.startedAt ?? 0).getUTCDate())).size).toBe(2);
    const { rows: journal } = await app.api<Page<{ text: string }>>(
      '/journal?limit=500&q=is%20back%20in%20service',
    );
    const ours = journal.filter(
      (row) => row.text.includes('WCL-CC-') && row.text.endsWith(`blend ${hostList[0]?.host.blend}`),
    );
    expect(new Set(ours.map((row) => row.text)).size).toBe(40);
    expect(ours).toHaveLength(40);
  });

  it('goes back, and a person’s apps are explained before and after', async () => {
    await visitor.click('Go back');
    await visitor.sees(/All back by \d\d:\d\d .* \(9 in 10\)/, '.ant-modal');
    await visitor.click('Take 40 hosts back');
    await skipUntil(async () =>
      (await app.api<Rollout[]>('/rollouts')).some((row) => row.isReturn && row.endedAt !== null),
    );
    await visitor.answer(/40 of 40 hosts back/);
    const agent = await personLike((path) => app.api(path), 'contact-centre agent');
    await open(`/access?user=${agent}`);
    await visitor.answer(/gets 1 desktop and 4 apps\./);
    await visitor.sees(`${agent} is in Contact-centre agents`);
    await visitor.sees('no group is assigned to Knapsel Archiver on contact-centre');
    await visitor.choose('Group', 'Contact-centre agents');
    await visitor.choose('Pool', 'contact-centre');
    await visitor.choose('To', 'Knapsel Archiver');
    await visitor.click('Assign');
    await visitor.answer(/gets 1 desktop and 5 apps\./);
  });
});

describe('every station', () => {
  it.each([
    '/',
    '/images',
    '/packages',
    '/packages/new',
    '/pools',
    '/pools/new',
    '/rollouts',
    '/rollouts/new',
    '/access',
    '/estate',
  ])('%s has no violation that axe knows', async (path) => {
    await open(path);
    await visitor.page.waitForSelector('h1.answer');
    expect(await visitor.violations()).toEqual([]);
  });
});
