import { RunningApp } from '../server/test/running-app.ts';
import { Visitor } from './browser.ts';
const app = await RunningApp.start();
await app.api('/estate/clock', { action: 'rate', rate: 0 });
const visitor = await Visitor.open();
let n = 0;
const shot = async () => {
  await new Promise((r) => setTimeout(r, 1200));
  await visitor.page.screenshot({ path: `/tmp/z/s${++n}.png` as `${string}.png` });
};
try {
  const pools = await app.api<any[]>('/pools');
  const id = (name: string) => pools.find((p) => p.name === name).id;
  await app.api('/estate/faults', { kind: 'agent silent', target: 'WCL-CC-009' });
  await app.api('/pools/' + id('reading-rooms') + '/actions', {
    action: 'hold',
    hosts: Array.from({ length: 14 }, (_, i) => `WCL-RR-0${String(i + 10)}`),
  });
  await visitor.page.goto(app.address + '/pools');
  await visitor.sees('The worst first');
  await shot();
  await visitor.clickText('1 agent silent');
  await visitor.sees('as a table');
  await shot();
  console.log(visitor.errors);
} finally {
  await visitor.close();
  await app.stop();
}
