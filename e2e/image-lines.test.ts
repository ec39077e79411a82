/** The Images station in depth, as its user walks it. */
import { readFileSync } from 'node:fs';
import { afterEach, describe, expect, it } from 'vitest';
import type { LineDetail, LineSummary } from '@vatline/contract/image';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import { inventoryHeader, writeInventory } from '@vatline/core/inventory/text';
import type { RunningApp } from '../server/test/running-app.ts';
import { hostsOf } from '../server/test/usual-requests.ts';
import type { Visitor } from './browser.ts';
import { beginJourney } from './journey.ts';

let app: RunningApp;
let visitor: Visitor;
const { open, speed } = beginJourney((started) => ({ app, visitor } = started));
afterEach(() => speed(0));

const line = async (name: string): Promise<LineSummary> => {
  const found = (await app.api<LineSummary[]>('/lines')).find((row) => row.name.startsWith(name));
  if (!found) throw new Error(`there is no line ${name}`);
  return found;
};
const openLine = async (name: string, tab = '') => open(`/images/${(await line(name)).id}/${tab}`);

describe('a newcomer', () => {
  it('makes a line from nothing to an approved version, by what the screens say', async () => {
    await open('/images');
    await visitor.click('New image line');
    await visitor.answer('Begin an image line');
    await visitor.type('Name', 'Records desktop');
    await visitor.click('Begin the line');
    await visitor.answer('The recipe is empty.');
    await visitor.click('Begin with the usual steps');
    await visitor.answer(/The next build takes \d+ min\./);
    await visitor.choose('Add a step', 'application');
    await visitor.type('Name', 'Lanrick Ledger');
    await visitor.click('Close');
    await visitor.sees('Keep or drop the changes first.', '.evidence');
    await visitor.click('Keep as recipe 2');
    await visitor.sees('There is no build machine yet', '.evidence');
    await speed(600);
    await visitor.click('Build');
    await visitor.sees('The build machine is running', '.evidence');
    await visitor.click('Shut it down');
    await visitor.click('Cut version 1');
    await visitor.sees('Cut version 2');
    await speed(0);
    await visitor.click('Versions');
    await visitor.choose('You act as', 'approver');
    await visitor.choose('State of version 1', 'approved');
    await visitor.sees(/approver, \w+ \d+ Mar/);
    expect((await line('Records')).versions).toMatchObject([
      { number: 1, state: 'approved', recipeRevision: 2 },
    ]);
  });
});

describe('a changed step', () => {
  it('of fourteen, the ninth, puts the waterline at eight; the build starts there', async () => {
    await openLine('Staff');
    await visitor.clickText('Halvane Print 2.2');
    await visitor.type('Version', '2.3');
    await visitor.sees(
      /8 Dockray Scan 3\.4 .* above: from checkpoints, saves 4\d min 9 Halvane Print 2\.3/,
      '.ladder',
    );
    await visitor.answer(/The next build takes \d\d min, not 1 h \d min\./);
    await visitor.sees('Build from step 9', '.evidence');
    await visitor.click('Drop the changes');
    await visitor.answer('Nothing to build');
  });
});

describe('a build', () => {
  it('is paused before its next step, told so, and goes on', async () => {
    await openLine('Map', 'builds');
    await visitor.sees(/The last build ran [\d hmin]+ of steps; none took longer than usual\./);
    await visitor.sees(/13 checkpoints, \d+ GB/);
    await visitor.click('Recipe');
    await visitor.choose('Add a step', 'language pack');
    await visitor.type('Language', 'ga-IE');
    await visitor.click('Close');
    await visitor.click('Keep as recipe 6');
    await visitor.sees(/, recipe 6\b/, '.under-answer');
    await visitor.clickText('Build from step');
    await visitor.click('Pause');
    await visitor.sees('then it pauses', '.evidence');
    await speed(60);
    await visitor.answer(/from step \d+: paused\./);
    await visitor.sees('paused', '.rack');
    await speed(600);
    await visitor.click('Go on');
    await visitor.answer('Nothing to build');
  });

  it('leaves checkpoints that can be opened and compared', async () => {
    await openLine('Map', 'builds');
    await visitor.page.locator('.checkpoint-links a').click();
    await visitor.sees(/\d+ services added/);
    await openLine('Map', 'builds');
    await visitor.page.locator('tr:nth-child(2) .checkpoint-links a:last-child').click();
    await visitor.sees(/1 application added, 1 service added, 2 drivers added/);
  });
});

describe('changes by hand', () => {
  it('are found, named, and turned into steps that a build runs to the same machine', async () => {
    await openLine('Staff', 'hand');
    await visitor.sees('Nothing differs from the last checkpoint, traces of use left out.');
    await speed(600);
    await visitor.click('Run it to change it by hand');
    await visitor.sees('BUILD-STAFFMUL is running');
    await speed(0);
    await visitor.type('Name', 'Pennisk Viewer');
    await visitor.click('Do it');
    await visitor.sees('Pennisk Viewer 4.4 was installed with 18 entries');
    await visitor.choose('What to do', 'set how a service starts');
    await visitor.type('Service', 'No such service');
    await visitor.choose('Starts', 'manual');
    await visitor.click('Do it');
    await visitor.sees('the machine has no service No such service');
    await visitor.type('Service', 'System service 9');
    await visitor.click('Do it');
    await visitor.sees('2 changes since the last checkpoint.');
    await visitor.sees('The machine was changed by hand', '.evidence');
    await visitor.type('What was done', 'the viewer, for the county archive');
    await visitor.click('Note it');
    await visitor.sees('the viewer, for the county archive Mon 22 Mar');
    await visitor.click('Make steps of these 2');
    await visitor.answer(/The next build takes 12 min, not 1 h \d+ min\./);
    await visitor.sees('2 steps added since');
    await visitor.click('Keep as recipe 15');
    await speed(600);
    await visitor.clickText('Build from step 13');
    await visitor.answer('Nothing to build');
    await visitor.click('By hand');
    await visitor.sees('Nothing differs from the last checkpoint');
    const { id } = await line('Staff');
    const detail = await app.api<LineDetail>(`/lines/${id}`);
    expect(detail.machine?.changedByHand.count).toBe(0);
    const text = await (await fetch(`${app.address}/api/v1/inventories?of=machine:${id}`)).text();
    expect(text).toContain(
      '"kind":"application","publisher":"Pennisk","name":"Pennisk Viewer","version":"4.4"',
    );
    expect(text).toContain('{"kind":"service","name":"System service 9","start":"manual"');
  });
});

describe('a fragment', () => {
  it('that is behind says so; its newer revision is a change that runs only what is new', async () => {
    await openLine('Reader');
    await visitor.clickText('Fragment Quiet first start');
    await visitor.sees('revision 2 is out');
    await visitor.click('Take revision 2');
    await visitor.answer(/The next build takes 8 min, not/);
    await visitor.sees('revision 2, 3 steps, 2 of them from checkpoints');
    await visitor.click('Drop the changes');
    await visitor.answer('Nothing to build');
  });

  it('is made from steps of a line, changed as text, and its uses are told', async () => {
    await openLine('Staff');
    await visitor.click('Make a fragment');
    await visitor.page.locator('.picker li:nth-child(12) input').click();
    await visitor.type('Name of the fragment', 'Quiet first start');
    await visitor.click('Make a fragment of 1 step');
    await visitor.sees('There is a fragment named Quiet first start already', '.picker');
    await visitor.type('Name of the fragment', 'First run');
    await visitor.click('Make a fragment of 1 step');
    await visitor.sees('Fragment First run');
    await visitor.answer('Nothing to build');
    await visitor.click('Keep as recipe 16');
    await visitor.click('Fragments');
    await visitor.clickText('First run');
    await visitor.sees('Used by 1 line');
    await visitor.page.locator('.cm-content').click();
    await visitor.pressControl('End');
    await visitor.page.keyboard.press('Enter');
    await visitor.page.keyboard.press('Home');
    await visitor.page.keyboard.type('  - id: again\nkind: no such kind\n');
    await visitor.sees(/line \d+, column 5: steps\.1\.kind is not a kind of step/);
  });
});

describe('versions', () => {
  it('are compared with a host, and what was changed there stands out', async () => {
    const pool = (await app.api<PoolSummary[]>('/pools')).find((row) => row.name === 'desk-staff');
    const host = (await hostsOf((path) => app.api(path), pool?.id ?? '')).find(
      (row) => row.name === 'WCL-DS-007',
    );
    const staff = await line('Staff');
    const version = staff.versions.find((row) => row.number === 14);
    await open(`/images/${staff.id}/compare?from=version:${version?.id}&to=host:${host?.id}`);
    await visitor.sees('1 service changed, 1 registry value added');
    await visitor.type('Filter differences', 'duplex');
    await visitor.sees('1 registry value');
    await visitor.type('Filter differences', 'no such');
    await visitor.sees('No difference holds “no such”.');
  });

  it('have bills of materials that compare, also with a file, and a layer with its real size', async () => {
    const staff = await line('Staff');
    const id = (number: number) => staff.versions.find((row) => row.number === number)?.id;
    await open(`/images/${staff.id}/compare?from=version:${id(7)}&to=version:${id(15)}`);
    await visitor.sees(/1 application added, 3 applications changed, 16 updates added, 1 driver added/);
    await visitor.click('Compare the two bills');
    await visitor.sees(
      /From Staff multi-session 7 to Staff multi-session 15: \d+ components added, \d+ changed, 0 removed/,
    );
    await visitor.give('Compare with a file', 'other.json', '{"bomFormat":"Other"}');
    await visitor.sees('other.json: bomFormat is not "CycloneDX"');
    await visitor.sees(/\d+ entries to put, [\d.]+ MB before compression/);
    await visitor.click('Make the layer');
    await visitor.sees(/The layer takes [\d.]+ MB \(\d\d %\)\./);
  });

  it('hold applications that are found over everything', async () => {
    await open('/images/applications');
    await visitor.type('Application', 'brackenote below 24.2');
    await visitor.answer('No host has it; 6 image versions do.');
    await visitor.type('Application', 'pellam reader');
    await visitor.answer(/\d+ hosts have it/);
    await visitor.type('Application', 'no such thing');
    await visitor.answer('Nothing holds “no such thing”.');
  });

  it('are the beginning of other lines, and the lineage shows it', async () => {
    await openLine('Reader', 'versions');
    await visitor.page.locator('::-p-text(start a line)').click();
    await visitor.sees('It begins with the recipe and hardware of Reader desktop');
    await visitor.type('Name', 'Kiosk');
    await visitor.click('Begin the line');
    await visitor.answer(/The next build takes/);
    await visitor.click('Lineage');
    await visitor.sees('Kiosk started from version 12; nothing cut so far');
  });

  it('made elsewhere are brought in by inventory; faults stand at their fields', async () => {
    await openLine('Reader', 'versions');
    await visitor.clickText('A version made elsewhere');
    await visitor.click('Bring it in');
    await visitor.sees('is missing; choose a file');
    const entries = [
      {
        kind: 'application' as const,
        publisher: 'Tomewick',
        name: 'Tomewick Catalogue',
        version: '6.9',
        size: 5,
      },
    ];
    const text = writeInventory(inventoryHeader('elsewhere', 0, false), entries);
    await visitor.attachText('inventory', 'scan.jsonl', text);
    await visitor.click('Bring it in');
    await visitor.sees('It is version 13 of this line.');
    await visitor.sees('made elsewhere');
  });
});

describe('a recipe', () => {
  it('is compared with an earlier revision as steps and as text', async () => {
    await openLine('Reader', 'revisions');
    await visitor.choose('From revision', '9,');
    await visitor.sees('1 step changed, 2 added, 2 removed');
    await visitor.sees('fragment: Quiet first start', '.text-difference');
  });

  it('takes steps of another line', async () => {
    await openLine('Reader');
    await visitor.click('Take steps from another line');
    await visitor.choose('Line to take from', 'Staff multi-session');
    await visitor.page.locator('.picker li:nth-child(8) input').click();
    await visitor.click('Take 1 step');
    await visitor.sees('Dockray Scan 3.4', '.ladder');
    await visitor.click('Drop the changes');
  });

  it('is written as a script for a machine without a driver', async () => {
    await openLine('Reader', 'text');
    await visitor.click('Shell');
    await visitor.sees(/It asks a person to do \d+ steps by hand/);
    await visitor.sees('#!/bin/sh', '.cm-content');
    const saved = await visitor.saves('Save build.sh');
    expect(readFileSync(saved, 'utf8')).toMatch(/^#!\/bin\/sh\n# Recipe 11 of Reader desktop\n/);
  });
});

describe('every screen of the station', () => {
  it.each([
    ['', 'Operating system'],
    ['text', 'mediaDigest'],
    ['revisions', 'As text'],
    ['hardware', 'Write as OVF'],
    ['builds', 'shorter steps|checkpoints'],
    ['hand', 'last checkpoint'],
    ['versions', 'What may go'],
    ['schedule', 'It is cut by hand only'],
    ['compare', 'Unchanged'],
  ])('of a line, %s, has no violation that axe knows', async (tab, shows) => {
    await openLine('Staff', tab);
    await visitor.sees(new RegExp(shows));
    expect(await visitor.violations()).toEqual([]);
  });

  it.each([
    ['new', 'Begin the line'],
    ['lineage', 'Map workstation 5 versions'],
    ['fragments', 'Used by'],
    ['applications', 'versions of applications are known'],
  ])('%s has none either', async (path, shows) => {
    await open(`/images/${path}`);
    await visitor.sees(shows);
    expect(await visitor.violations()).toEqual([]);
  });
});
