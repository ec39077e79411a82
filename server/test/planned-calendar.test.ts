/** What is planned, as programs that subscribe read it. */
import request from 'supertest';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Rollout } from '@vatline/contract/rollout';
import { TestServer } from './harness.ts';

let server: TestServer;
beforeAll(async () => (server = await TestServer.open({ demo: true })), 120_000);
afterAll(() => server.close());

async function eventsOf(query = ''): Promise<Record<string, string>[]> {
  const response = await request(server.app.http).get(`/api/v1/planned.ics${query}`);
  expect(response.status).toBe(200);
  expect(response.headers['content-type']).toBe('text/calendar; charset=utf-8');
  return response.text
    .split('BEGIN:VEVENT')
    .slice(1)
    .map((event) =>
      Object.fromEntries(event.split('\r\n').map((line) => line.split(':') as [string, string])),
    );
}

describe('the calendar of what is planned', () => {
  it('has the windows that open rollouts will use, in UTC', async () => {
    const events = await eventsOf('?weeks=1');
    const contact = events.filter((event) => event['SUMMARY']?.startsWith('Rollout of contact-centre'));
    // Tuesday and Friday, 01:00 to 05:00 in Dublin, which is UTC in winter; done on Friday a little before three.
    expect(contact.map((event) => [event['DTSTART'], event['DTEND']?.slice(0, 11)])).toEqual([
      ['20270323T010000Z', '20270323T05'],
      ['20270326T010000Z', '20270326T02'],
    ]);
    const sunday = events.find((event) => event['SUMMARY']?.startsWith('Rollout of desk-staff'));
    expect(sunday?.['DTSTART']).toBe('20270328T010000Z');
    expect(new Set(events.map((event) => event['UID'])).size).toBe(events.length);
  });

  it('loses the windows of one that is paused', async () => {
    const open = await server.get<Rollout[]>('/rollouts');
    const contact = open.find((one) => one.pool === 'contact-centre' && one.endedAt === null);
    await server.send('post', `/rollouts/${contact?.id ?? ''}/pause`, { why: 'exams' });
    const events = await eventsOf();
    expect(events.filter((event) => event['SUMMARY']?.startsWith('Rollout of contact-centre'))).toEqual([]);
    await server.send('post', `/rollouts/${contact?.id ?? ''}/go-on`);
  });

  it.each(['0', '53', '1.5', 'many'])('for %s weeks is refused at its field', async (weeks) => {
    const refused = await server.refused('get', `/planned.ics?weeks=${weeks}`);
    expect([refused.status, refused.paths]).toEqual([422, ['weeks']]);
  });
});
