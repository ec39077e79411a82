/** Renews docs/screenshots from the demo: `npm run shots`. */
import { mkdirSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { leanHardware } from '@vatline/core/image/hardware';
import type { LineSummary } from '@vatline/contract/image';
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
  await visitor.page.goto(`${app.address}/images/${staff?.id}/schedule`);
  await visitor.click('Cut it by a schedule');
  await visitor.click('Add the pilot');
  await visitor.click('Add the next pool');
  await visitor.sees(/desk-staff Sun 28 Mar 03:00/);
  await visitor.page.screenshot({ path: join(folder, 'images-schedule.png') as `${string}.png` });
  const maps = lines.find((line) => line.name.startsWith('Map'));
  await visitor.page.goto(`${app.address}/images/${maps?.id}/hardware`);
  await visitor.click("Take the practice estate's");
  await visitor.sees(/needs? \d+ processor/);
  await visitor.page.screenshot({ path: join(folder, 'images-hardware.png') as `${string}.png` });
  await shot('images-compare', `/images/${staff?.id}/compare`, 'updates added');
  await shot('images-fragments', '/images/fragments', 'behind by 1');
  await app.api('/estate/clock', { action: 'rate', rate: 600 });
  await visitor.page.goto(`${app.address}/images/${maps?.id}/hand`);
  await visitor.click('Run it to change it by hand');
  await visitor.sees('is running');
  await app.api('/estate/clock', { action: 'rate', rate: 0 });
  await visitor.type('Name', 'Pennisk Viewer');
  await visitor.click('Do it');
  await visitor.choose('What to do', 'set how a service starts');
  await visitor.type('Service', 'System service 9');
  await visitor.click('Do it');
  await visitor.sees('2 changes since');
  await visitor.page.screenshot({ path: join(folder, 'images-hand.png') as `${string}.png` });
  await app.api('/estate/clock', { action: 'rate', rate: 600 });
  const { captureId } = await app.api<{ captureId: string }>('/captures', { installers: ['zinnet-141.0'] });
  await visitor.page.goto(`${app.address}/packages/capture/${captureId}`);
  await visitor.answer('suits a container with care');
  await app.api('/estate/clock', { action: 'rate', rate: 0 });
  await shot('packages-difference', `/packages/capture/${captureId}`, 'It updates itself');
  await visitor.click('Switch it off in the package');
  await visitor.answer('Zinnet Browser 141.0 suits a container.');
  await shot('packages-manifest', `/packages/capture/${captureId}/manifest`, 'guessed from');
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
  await shot('packages-shares', '/packages/shares', 'carries it');
  await shot('pools', `/pools/${pool('desk-staff')}`, 'Through the day');
  await shot('pools-new', '/pools/new', 'Does it fit?');
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
  const clerk = await personLike((path) => app.api(path), 'desk clerk');
  await shot('access-see-as', `/access?user=${clerk}`, 'What they see');
  await shot('estate', '/estate', 'Faults to practise with');
  const fork = staff?.versions.find((version) => version.number === 13)?.id;
  await app.api('/lines', {
    name: 'Kiosk',
    purpose: 'entrance halls',
    hardware: leanHardware,
    fromVersion: fork,
  });
  await shot('images-lineage', '/images/lineage', 'Kiosk');
} finally {
  await visitor.close();
  await app.stop();
}
