import { RunningApp } from '../server/test/running-app.ts';
import { Visitor } from './browser.ts';
const app = await RunningApp.start();
await app.api('/estate/clock', { action: 'rate', rate: 0 });
const visitor = await Visitor.open();
let n = 0;
const shot = async () => { await new Promise((r) => setTimeout(r, 700)); await visitor.page.screenshot({ path: `/tmp/z/s${++n}.png` as `${string}.png` }); };
try {
  await visitor.page.goto(app.address + '/pools/directory');
  await visitor.sees('Accounts that join');
  await visitor.clickText('Maps');
  await visitor.type('Name of the account', 'join-maps');
  await visitor.click('Make the account');
  await shot();
  const pools = await app.api<any[]>('/pools');
  await visitor.page.goto(app.address + '/pools/' + pools.find((p) => p.name === 'map-lab').id);
  await shot();
  console.log(visitor.errors);
} finally { await visitor.close(); await app.stop(); }
