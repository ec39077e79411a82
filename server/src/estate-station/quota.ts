/** Requests for more of what a site gives: asked once, answered by those who run it. */
import { estateEndpoints } from '@vatline/contract/estate';
import { change } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import { newId } from '../platform/ids.ts';
import type { Note } from '../platform/journal.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid } from '../platform/problem.ts';
import { OutsideRequests } from './outside-requests.ts';
import type { QuotaRow } from './tables.ts';

export function quotaRoutes(door: Door, parts: Parts): void {
  const { db, estate } = parts;

  door.serve(estateEndpoints.quotaRequests, async () => {
    const rows = await db
      .selectFrom('quota_request')
      .selectAll()
      .orderBy('asked_ms', 'desc')
      .limit(100)
      .execute();
    return rows.map(({ memory_bytes, asked_ms, answered_ms, ...row }) => ({
      ...row,
      memoryBytes: memory_bytes,
      askedAt: asked_ms,
      answeredAt: answered_ms,
    }));
  });

  door.serve(estateEndpoints.requestQuota, async ({ body }) => {
    const { site, cores, memoryBytes, graphics, text } = body;
    const id = newId('quota');
    const row = {
      id,
      site,
      cores,
      memory_bytes: memoryBytes,
      graphics,
      text,
      asked_ms: estate.clock.now(),
      state: 'asked' as const,
      answer: '',
      answered_ms: null,
    };
    if (!(await estate.hypervisor.sites()).some((one) => one.name === site))
      throw invalid([{ path: 'site', message: `there is no site ${site}` }]);
    // Written down before anybody is asked: a stop in between is taken up by `OutsideRequests.resume`.
    await change(
      parts,
      () => db.insertInto('quota_request').values(row).execute(),
      () => noteOf(`${site} was asked for more`),
    );
    await quotaRequests(parts).ask(row);
    return { id };
  });
}

/** Requests for more of a site. */
export function quotaRequests(parts: Parts): OutsideRequests<QuotaRow> {
  return new OutsideRequests<QuotaRow>(parts, {
    prefix: 'quota/',
    open: () => parts.db.selectFrom('quota_request').selectAll().where('state', '=', 'asked').execute(),
    begin: (key, { site, cores, memory_bytes, graphics, text }) =>
      parts.estate.hypervisor.requestQuota(
        key,
        site,
        { processors: cores, memoryBytes: memory_bytes, graphics },
        text,
      ),
    answered: (id, refusal) => answered(parts, id, refusal),
  });
}

/** Empty where it was granted. Said once, however often it is heard. */
async function answered(parts: Parts, id: string, refusal: string): Promise<void> {
  const { db, estate, journal } = parts;
  await change(
    parts,
    async () => {
      const [row] = await db
        .updateTable('quota_request')
        .set({
          state: refusal === '' ? 'granted' : 'refused',
          answer: refusal,
          answered_ms: estate.clock.now(),
        })
        .where('id', '=', id)
        .where('state', '=', 'asked')
        .returning('site')
        .execute();
      return row;
    },
    (row) =>
      row &&
      noteOf(
        refusal === '' ? `${row.site} gives what it was asked for` : `${row.site} gives no more: ${refusal}`,
      ),
  );
  journal.tell('estate');
}

function noteOf(text: string): Omit<Note, 'at'> {
  return { kind: 'estate', subject: 'estate', text, link: '/estate' };
}
