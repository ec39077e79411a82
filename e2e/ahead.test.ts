/** What changes, and for whom: asked for on a Monday morning, answered from everything planned. */
import { describe, expect, it } from 'vitest';
import { personLike } from '../server/test/usual-requests.ts';
import { beginJourney } from './journey.ts';
import type { RunningApp } from '../server/test/running-app.ts';
import type { Visitor } from './browser.ts';

let app: RunningApp;
let visitor: Visitor;
const { open } = beginJourney((started) => {
  ({ app, visitor } = started);
});

/** A field for a date with a time takes it whole, however the browser writes dates. */
const ask = (wall: string) =>
  visitor.page.$eval(
    '[aria-label="When"]',
    (field, value) => {
      Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')?.set?.call(field, value);
      field.dispatchEvent(new Event('input', { bubbles: true }));
    },
    wall,
  );

describe('what changes', () => {
  it('for a pool is what its rollout brings, on the Monday that comes', async () => {
    await open('/rollouts');
    await visitor.clickText('What changes');
    await visitor.choose('For whom', 'desk-staff');
    await visitor.answer('On Mon 29 Mar 08:00 desk-staff has changed: Staff multi-session 14 to 15.');
    await visitor.sees(
      /done by then rollout of desk-staff from Sun 28 Mar 02:00, done by Sun 28 Mar 0\d:\d\d \(9 in 10\)/,
    );
    expect(await visitor.violations()).toEqual([]);
  });

  it('is not yet so on the Friday before', async () => {
    await ask('2027-03-26T08:00');
    await visitor.answer('On Fri 26 Mar 08:00 desk-staff is as it is now; what is planned comes later.');
    await ask('2027-03-01T08:00');
    await visitor.sees('is over already');
  });

  it('for a person is what reaches them, and why', async () => {
    const clerk = await personLike((path) => app.api(path), 'desk clerk');
    await open(`/rollouts/ahead?of=person&who=${clerk}&at=2027-03-29T08:00`);
    await visitor.answer(/On Mon 29 Mar 08:00, of the one pool of .+, desk-staff has changed\./);
    await visitor.sees('24 hosts; theirs by Desk clerks in Branch staff');
    await visitor.clickText('A group');
    await visitor.sees('Choose a group to see what is another for them.');
    await visitor.page.focus('[aria-label="For whom"]');
    await visitor.page.keyboard.type('Archivists');
    await visitor.choose('For whom', 'Archivists');
    await visitor.answer(/nothing has changed|No pool is/);
  });
});
