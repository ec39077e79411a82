/** What a person sees when something stands in the way: a full disk, somebody else's change, a lost key. */
import { renameSync, rmSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { InstallationRow } from '@vatline/contract/installation';
import { RunningApp } from '../server/test/running-app.ts';
import { Visitor } from './browser.ts';

const preload = resolve(import.meta.dirname, '../server/test/disk-full.cjs');
let app: RunningApp;
let visitor: Visitor;
let full: string;
beforeAll(async () => {
  app = await RunningApp.start();
  full = `${app.folder}-full`;
  await app.kill();
  await app.launchWith({ NODE_OPTIONS: `--require ${preload}`, DISK_FULL: full });
  await app.api('/estate/clock', { action: 'rate', rate: 60 });
  visitor = await Visitor.open();
});
afterAll(async () => {
  rmSync(full, { force: true });
  expect(visitor.errors).toEqual([]);
  await visitor.close();
  await app.stop();
});

it('a full disk is said on every screen, and is gone again when there is room', async () => {
  await visitor.page.goto(app.address);
  await visitor.sees('What needs you');
  writeFileSync(full, '');
  await visitor.sees('The disk is full; work goes on when there is room');
  for (const station of ['Images', 'Packages', 'Pools', 'Rollouts', 'Access', 'Estate']) {
    await visitor.page.goto(`${app.address}/${station.toLowerCase()}`);
    await visitor.sees('Nothing is being done.');
  }
  rmSync(full);
  await visitor.page.waitForFunction(() => document.querySelector('.trouble-bar') === null);
});

it('a change that somebody else made meanwhile is not overwritten, and can be taken', async () => {
  const [row] = await app.api<InstallationRow[]>('/installations');
  await visitor.page.goto(`${app.address}/packages/installed/${row?.id ?? ''}`);
  await visitor.page.waitForSelector('h1.answer');
  await visitor.type('Version', '9.9');
  const other = await fetch(`${app.address}/api/v1/installations/${row?.id ?? ''}`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({
      ...row?.installation,
      notification: 'kept by somebody else',
      basedOn: row?.revision,
    }),
  });
  expect(other.status).toBe(200);
  await visitor.click('Keep the changes');
  await visitor.sees(/Revision 2 of .* was kept meanwhile; this change is based on 1/);
  // By itself and not by where it is: the forecast above it comes anew meanwhile, and moves it.
  const take = await visitor.page.waitForSelector('::-p-aria([name="Take what was kept"])');
  await take?.evaluate((button) => (button as HTMLElement).click());
  await visitor.page.waitForFunction(() => !document.body.innerText.includes('was kept meanwhile'));
  await visitor.type('Version', '9.9');
  await visitor.click('Keep the changes');
  await visitor.page.waitForFunction(() => !document.body.innerText.includes('Keep the changes'));
  const [kept] = (await app.api<InstallationRow[]>('/installations')).filter((one) => one.id === row?.id);
  expect([kept?.revision, kept?.installation.version, kept?.installation.notification]).toEqual([
    3,
    '9.9',
    'kept by somebody else',
  ]);
});

it('without the sealing key home says first that no certificate can sign, and the page of each says why', async () => {
  const key = join(app.folder, 'sealing.key');
  await app.kill();
  renameSync(key, `${key}.kept`);
  await app.launch();
  await visitor.page.goto(app.address);
  await visitor.sees('No certificate can sign');
  await visitor.page.goto(`${app.address}/packages/certificates`);
  await visitor.sees(/cannot sign: the sealing key is missing/);
  await app.kill();
  renameSync(`${key}.kept`, key);
  await app.launch();
});
