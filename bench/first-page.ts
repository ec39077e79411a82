/** What the first page sends over the wire, against the same scripts as they lie on the disk. */
import { existsSync, statSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { Visitor } from '../e2e/browser.ts';
import { withDemo } from './running-demo.ts';

const assets = resolve(import.meta.dirname, '../web/dist/assets');

export async function benchFirstPage(): Promise<void> {
  await withDemo(async (_app, address) => {
    const visitor = await Visitor.open();
    const names = new Set<string>();
    visitor.page.on('request', (request) => {
      const name = /\/assets\/([^/]+\.js)$/.exec(request.url())?.[1];
      if (name !== undefined) names.add(name);
    });
    await visitor.page.goto(address, { waitUntil: 'networkidle2' });
    await visitor.close();
    const total = (ending: string) =>
      [...names].reduce((sum, name) => sum + sizeOf(join(assets, name), ending), 0) / 1000;
    console.log(
      `scripts of the first page: ${total('.br').toFixed(0)} kB as Brotli, ${total('.gz').toFixed(0)} kB as gzip, as they lie on the disk: ${total('').toFixed(0)} kB, ratio ${(total('.br') / total('')).toFixed(2)} (wanted: at most 300 kB as gzip)`,
    );
  });
}

/** Of a file in a small form; of one that has none, as it is. */
function sizeOf(path: string, ending: string): number {
  return statSync(existsSync(path + ending) ? path + ending : path).size;
}
