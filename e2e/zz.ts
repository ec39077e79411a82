import { RunningApp } from '../server/test/running-app.ts';
import { Visitor } from './browser.ts';
const app = await RunningApp.start();
await app.api('/estate/clock', { action: 'rate', rate: 0 });
const visitor = await Visitor.open();
const shot = async (name: string) => {
  await visitor.page
    .waitForNetworkIdle({ idleTime: 500, concurrency: 1, timeout: 8000 })
    .catch(() => undefined);
  await visitor.page.screenshot({ path: `/tmp/${name}.png` as `${string}.png` });
};
try {
  await visitor.page.goto(`${app.address}/rollouts/rings`);
  await visitor.sees('Through all rings');
  await shot('a1');
  await visitor.clickText('Staff, pilot first');
  await shot('a2');
  const orders = await app.api<{ id: string; name: string; revision: number }[]>('/ring-orders');
  const reading = orders.find((o) => o.name.startsWith('Reading'))!;
  const lines =
    await app.api<{ id: string; name: string; versions: { id: string; number: number; state: string }[] }[]>(
      '/lines',
    );
  const reader = lines.find((l) => l.name.startsWith('Reader'))!;
  console.log(reader.versions.map((v) => `${v.number} ${v.state}`).join(', '));
  await visitor.page.goto(`${app.address}/rollouts/rings/${reading.id}`);
  await visitor.sees('Through all rings');
  await visitor.page.waitForFunction(() => document.body.innerText.includes('(9 in 10)'));
  await visitor.clickText('Roll out through 3 rings');
  await visitor.page.waitForFunction(() => location.pathname.includes('/staged/'));
  await shot('b1');
  await app.api('/estate/clock', { action: 'rate', rate: 600 });
  await visitor.page.waitForFunction(() => document.body.innerText.includes('soaks until'), {
    timeout: 120000,
  });
  await app.api('/estate/clock', { action: 'rate', rate: 0 });
  await shot('b2');
  await app.api('/estate/clock', { action: 'rate', rate: 600 });
  await visitor.page.waitForFunction(() => document.body.innerText.includes('Waits for an approval'), {
    timeout: 240000,
  });
  await app.api('/estate/clock', { action: 'rate', rate: 0 });
  await shot('b3');
  await app.api('/caller', { role: 'approver' }, 'PUT').catch((e) => console.log(String(e)));
  await shot('b4');
} catch (e) {
  console.log(String(e));
  await shot('err');
} finally {
  await visitor.close();
  await app.stop();
}
