import { RunningApp } from '../server/test/running-app.ts';
import { Visitor } from './browser.ts';
const app = await RunningApp.start();
await app.api('/estate/clock', { action: 'rate', rate: 0 });
const visitor = await Visitor.open();
let n = 0;
const shot = async () => { await new Promise((r) => setTimeout(r, 1500)); await visitor.page.screenshot({ path: `/tmp/z/s${++n}.png` as `${string}.png` }); };
try {
  await visitor.page.goto(app.address + '/pools/new');
  await visitor.sees('Does it fit?');
  await visitor.choose('Site', 'yard-a');
  await visitor.choose('Machine size', 'shared-8');
  await visitor.clickText('Take the practice estate’s');
  await visitor.sees('People a host');
  await visitor.page.evaluate(() => { for (const e of document.querySelectorAll('.work')) e.scrollTop = 420; });
  await shot();
  await visitor.page.goto(app.address + '/estate');
  await visitor.sees('Machine sizes');
  await shot();
  console.log(visitor.errors);
} finally { await visitor.close(); await app.stop(); }
