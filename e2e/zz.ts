import { RunningApp } from '../server/test/running-app.ts';
import { Visitor } from './browser.ts';
const app = await RunningApp.start();
await app.api('/estate/clock', { action: 'rate', rate: 0 });
const visitor = await Visitor.open();
let n = 0;
const shot = async () => { await new Promise((r) => setTimeout(r, 1500)); await visitor.page.screenshot({ path: `/tmp/z/s${++n}.png` as `${string}.png` }); };
try {
  await visitor.page.goto(app.address + '/pools/datastores?store=yard-a/standard');
  await visitor.sees('Who takes how much');
  await shot();
  const pools = await app.api<any[]>('/pools');
  await visitor.page.goto(app.address + '/pools/' + pools.find((p) => p.name === 'reading-rooms').id + '?host=WCL-RR-007');
  await visitor.sees('running');
  await visitor.page.evaluate(() => { for (const e of document.querySelectorAll('.bench')) e.scrollTop = 300; });
  await shot();
  console.log(visitor.errors);
} finally { await visitor.close(); await app.stop(); }
