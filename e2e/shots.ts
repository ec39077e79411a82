/** Renews docs/screenshots from the demo: `npm run shots`. */
import { mkdirSync } from 'node:fs';
import { join, resolve } from 'node:path';
import type { LineSummary } from '@vatline/contract/image';
import type { RingOrder } from '@vatline/contract/rings/order';
import type { StagedRollout } from '@vatline/contract/rings/staged';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import { RunningApp } from '../server/test/running-app.ts';
import { personLike } from '../server/test/usual-requests.ts';
import { Visitor } from './browser.ts';

const folder = resolve(import.meta.dirname, '../docs/screenshots');
mkdirSync(folder, { recursive: true });
const app = await RunningApp.start();
await app.api('/estate/clock', { action: 'rate', rate: 0 });
const visitor = await Visitor.open();

async function shot(name: string, path: string, shows: string | RegExp): Promise<void> {
  await visitor.page.goto(app.address + path);
  await visitor.sees(shows);
  await visitor.page.evaluate(() => document.fonts.ready);
  await visitor.page
    .waitForNetworkIdle({ idleTime: 400, concurrency: 2, timeout: 5_000 })
    .catch(() => undefined);
  await visitor.page.screenshot({ path: join(folder, `${name}.png`) as `${string}.png` });
  process.stdout.write(`${name}\n`);
}

/** A weekly cut with two pools after it, the second of them with too short a window. */
async function keepSchedule(lineId: string, first: string, second: string): Promise<void> {
  const sunday = (poolId: string, start: string, end: string) => ({
    poolId,
    window: { rule: 'FREQ=WEEKLY;BYDAY=SU', start, end },
    batch: 6,
    maxUnavailable: 6,
    drainLimitMinutes: 15,
    reserve: null,
  });
  const body = {
    rule: 'FREQ=WEEKLY;BYDAY=SA',
    at: '02:00',
    zone: 'Europe/Dublin',
    takeUpdates: true,
    onlyIfChanged: true,
    leaveRunning: false,
    waitHours: 12,
    rollouts: [sunday(first, '01:00', '03:00'), sunday(second, '03:00', '05:00')],
    basedOn: 0,
  };
  const headers = { 'content-type': 'application/json' };
  const address = `${app.address}/api/v1/lines/${lineId}/schedule`;
  const answer = await fetch(address, { method: 'PUT', headers, body: JSON.stringify(body) });
  if (!answer.ok) throw new Error(await answer.text());
}

try {
  const lines = await app.api<LineSummary[]>('/lines');
  const pools = await app.api<PoolSummary[]>('/pools');
  const staff = lines.find((line) => line.name.startsWith('Staff'));
  const pool = (name: string) => pools.find((row) => row.name === name)?.id ?? '';
  await shot('home', '/', 'What needs you');
  await visitor.page.goto(`${app.address}/images/${staff?.id}`);
  await visitor.choose('Add a step', 'application');
  await visitor.type('Name', 'Pennisk Viewer');
  await visitor.clickText('Close');
  await visitor.sees('saves');
  await visitor.page.evaluate(() => {
    for (const element of document.querySelectorAll('*')) element.scrollTop = 0;
  });
  await visitor.page.screenshot({ path: join(folder, 'images-recipe.png') as `${string}.png` });
  await shot('images-compare', `/images/${staff?.id}/compare`, 'updates added');
  await app.api('/estate/clock', { action: 'rate', rate: 600 });
  const { captureId } = await app.api<{ captureId: string }>('/captures', { installers: ['zinnet-141.0'] });
  await visitor.page.goto(`${app.address}/packages/capture/${captureId}`);
  await visitor.answer('suits a container with care');
  await app.api('/estate/clock', { action: 'rate', rate: 0 });
  await shot('packages-difference', `/packages/capture/${captureId}`, 'It updates itself');
  await visitor.click('Switch it off in the package');
  await visitor.answer('Zinnet Browser 141.0 suits a container.');
  await visitor.page.goto(`${app.address}/packages/capture/${captureId}/manifest`);
  await visitor.click('Build 3 containers');
  await visitor.page.waitForFunction(
    () => document.querySelectorAll('.container-sizes tbody tr').length === 3,
  );
  await visitor.click('Sign');
  await visitor.sees('by Wrenfield Packaging 2026');
  await visitor.click('Verify');
  await visitor.sees('Everything holds');
  await shot('packages-containers', `/packages/capture/${captureId}/container`, 'Everything holds');
  await shot('packages-installed', '/packages/installed', 'If it was begun now');
  // Some hosts held back, so that the page has something to say.
  const held = Array.from({ length: 14 }, (_none, i) => `WCL-RR-0${i + 10}`);
  await app.api(`/pools/${pool('reading-rooms')}/actions`, { action: 'hold', hosts: held });
  await shot('pools', '/pools', 'The worst first');
  await app.api(`/pools/${pool('reading-rooms')}/actions`, { action: 'let in', hosts: held });
  await visitor.page.goto(`${app.address}/pools/${pool('desk-staff')}`);
  await visitor.clickText('as a table');
  await visitor.click('Choose WCL-DS-001');
  await visitor.click('Choose WCL-DS-002');
  await visitor.clickText('Restart');
  await visitor.sees('signed out at once');
  await visitor.page.screenshot({ path: join(folder, 'pools-hosts.png') as `${string}.png` });
  await visitor.page.goto(`${app.address}/pools/new`);
  await visitor.type('Name of the pool', 'records-office');
  await visitor.choose('Image version', 'Staff multi-session');
  await visitor.choose('Site', 'yard-b');
  await visitor.choose('Machine size', 'desk-4');
  await visitor.type('Hosts', '60');
  await visitor.sees('20 on yard-b and 40 on yard-a');
  await visitor.page.screenshot({ path: join(folder, 'pools-new.png') as `${string}.png` });
  await visitor.page.goto(`${app.address}/pools/${pool('contact-centre')}/readiness`);
  await visitor.click('are switched off');
  await visitor.click('at every hour');
  await visitor.sees(/costs [\d,.]+ a month less/);
  await visitor.sees('as recommended');
  await visitor.page
    .waitForNetworkIdle({ idleTime: 400, concurrency: 2, timeout: 5_000 })
    .catch(() => undefined);
  await visitor.page.screenshot({ path: join(folder, 'pools-readiness.png') as `${string}.png` });
  await shot('rollouts-blends', `/rollouts/blends/${pool('contact-centre')}`, 'A host is emptied');
  const monday = `/rollouts/ahead?of=pool&who=${pool('desk-staff')}&at=2027-03-29T08:00`;
  await shot('rollouts-ahead', monday, 'has changed');
  await shot('rollouts-plan', `/rollouts/new?pool=${pool('reading-rooms')}`, 'What else would work');
  await app.api('/estate/clock', { action: 'next event' });
  const rollouts = await app.api<{ id: string; pool: string }[]>('/rollouts');
  const contact = rollouts.find((row) => row.pool === 'contact-centre');
  await visitor.page.goto(`${app.address}/rollouts/${contact?.id}`);
  await visitor.sees(/[1-3] at work/);
  await app.api('/estate/clock', { action: 'rate', rate: 600 });
  await visitor.sees(/2[0-9] done/);
  await app.api('/estate/clock', { action: 'rate', rate: 0 });
  await shot('rollouts-at-work', `/rollouts/${contact?.id}`, 'at work');
  const orders = await app.api<RingOrder[]>('/ring-orders');
  const order = orders.find((one) => one.name.startsWith('Reading'));
  const reader = lines.find((line) => line.name.startsWith('Reader'));
  const contents = { imageVersionId: reader?.versions[0]?.id, packageVersionIds: [] };
  const body = { orderId: order?.id, revision: 1, contents };
  const { id: stagedId } = await app.api<{ id: string }>('/staged-rollouts', body);
  while ((await app.api<StagedRollout>(`/staged-rollouts/${stagedId}`)).asksSince === null)
    await app.api('/estate/clock', { action: 'next event' });
  await shot('rollouts-rings', `/rollouts/staged/${stagedId}`, 'Waits for an approval');
  const clerk = await personLike((path) => app.api(path), 'desk clerk');
  await shot('access-see-as', `/access?user=${clerk}`, 'What they see');
  await shot('estate', '/estate', 'Faults to practise with');
  const [, lab] = (await app.api<{ rows: { name: string }[] }>(`/pools/${pool('map-lab')}/hosts`)).rows;
  await app.api('/estate/secret-changes', { host: lab?.name, change: 'a container is taken off' });
  const [bench] = (await app.api<{ rows: { name: string }[] }>(`/pools/${pool('pilot-bench')}/hosts`)).rows;
  await app.api('/estate/secret-changes', { host: bench?.name, change: 'an older disk comes back' });
  for (const { id: poolId } of pools) await app.api('/drift/look', { poolId });
  await shot('rollouts-drift', '/rollouts/drift', 'not what their blends say');
  await keepSchedule(staff?.id ?? '', pool('pilot-bench'), pool('desk-staff'));
  await shot('rollouts-calendar', '/rollouts/calendar', 'collisions');
} finally {
  await visitor.close();
  await app.stop();
}
