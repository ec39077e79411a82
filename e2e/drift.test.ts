/** Drift: what somebody did to hosts and told nobody is found, mended by a rollout, or kept out of service. */
import { describe, expect, it } from 'vitest';
import type { DriftedHost } from '@vatline/contract/drift';
import type { Host } from '@vatline/contract/pool/host';
import type { Page } from '@vatline/contract/page';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import { beginJourney } from './journey.ts';
import type { RunningApp } from '../server/test/running-app.ts';
import type { Visitor } from './browser.ts';

let app: RunningApp;
let visitor: Visitor;
const { open, skipUntil } = beginJourney((started) => {
  ({ app, visitor } = started);
});

const drifted = async () => (await app.api<Page<DriftedHost>>('/drift')).rows.map(({ name }) => name);
const hostsOf = async (name: string) => {
  const pool = (await app.api<PoolSummary[]>('/pools')).find((one) => one.name === name);
  return (await app.api<Page<Host>>(`/pools/${pool?.id ?? ''}/hosts`)).rows;
};

describe('hosts that are not what their blends say', () => {
  it('are not called well before anybody has looked; a look finds the desk that somebody changed', async () => {
    await open('/rollouts/drift');
    await visitor.answer('Nobody has looked yet what the hosts really have.');
    await visitor.click('Look now');
    await visitor.answer('1 of 154 hosts is not what its blend says.');
    await visitor.sees('its disk is not as its image left it');
    expect(await visitor.violations()).toEqual([]);
    await visitor.click('what is another');
    await visitor.sees(/1 service changed|1 registry value added|System service 4/);
  });

  it('lack what was taken off behind everybody’s back', async () => {
    const [first] = await hostsOf('map-lab');
    await open('/estate');
    await visitor.page.focus('[aria-label="To the host"]');
    await visitor.page.keyboard.type(first?.name ?? '');
    await visitor.choose('To the host', first?.name ?? '');
    await visitor.click('Do it');
    await open('/rollouts/drift');
    await visitor.click('Look now at map-lab');
    await visitor.answer('2 of 154 hosts are not what their blends say.');
    await visitor.sees(/lacks \w+/);
    await visitor.sees('attach anew; nobody has to leave');
  });

  it('are mended by a rollout of just those, by no more than is needed', async () => {
    const [first] = await hostsOf('map-lab');
    await visitor.click(`Choose ${first?.name ?? ''}`);
    await visitor.click('Mend 1 host');
    await visitor.sees('Only packages differ: agents attach them while people work on');
    await visitor.click('Begin now');
    await visitor.answer(/Done by 08:\d\d today \(9 in 10\)/);
    await visitor.click('Roll out 1 host');
    await visitor.sees('Host by host');
    await skipUntil(async () => (await drifted()).length === 1);
    await open('/rollouts/drift');
    await visitor.answer('1 of 154 hosts is not what its blend says.');
  });

  it('are kept out of service where somebody wants to look first', async () => {
    await visitor.click('Choose WCL-DS-007');
    await visitor.click('Keep 1 host out of service');
    await visitor.sees('desk-staff, kept out');
    const desk = (await hostsOf('desk-staff')).find(({ name }) => name === 'WCL-DS-007');
    expect(desk?.state).toBe('held');
  });
});
