import { RunningApp } from '../server/test/running-app.ts';
import { Visitor } from './browser.ts';
const app = await RunningApp.start();
await app.api('/estate/clock', { action: 'rate', rate: 0 });
const visitor = await Visitor.open();
let n = 0;
const shot = async () => { await new Promise((r) => setTimeout(r, 1500)); await visitor.page.screenshot({ path: `/tmp/z/s${++n}.png` as `${string}.png` }); };
try {
  const pools = await app.api<any[]>('/pools');
  const id = (name: string) => pools.find((p) => p.name === name).id;
  await visitor.page.goto(app.address + '/pools/' + id('desk-staff'));
  await visitor.clickText('as a table');
  await visitor.sees('WCL-DS-001');
  await visitor.click('Choose WCL-DS-001');
  await visitor.click('Choose WCL-DS-003');
  await visitor.clickText('Restart');
  await shot();
  await app.api('/pools/' + id('map-lab') + '/actions', { action: 'power off', hosts: ['WCL-ML-02', 'WCL-ML-03'] });
  await app.api('/pools/' + id('map-lab') + '/actions', { action: 'hold', hosts: ['WCL-ML-05'] });
  await app.api('/estate/clock', { action: 'rate', rate: 600 });
  await new Promise((r) => setTimeout(r, 1500));
  await app.api('/estate/clock', { action: 'rate', rate: 0 });
  await visitor.page.goto(app.address + '/pools/' + id('map-lab') + '?host=WCL-ML-01');
  await shot();
  console.log(visitor.errors);
} finally { await visitor.close(); await app.stop(); }
