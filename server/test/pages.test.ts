/** Lists page by page: every row once, in order, also while rows change their places. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { JournalRow } from '@vatline/contract/home';
import type { LedgerRow } from '@vatline/contract/job';
import type { Page } from '@vatline/contract/page';
import type { Cell, Host } from '@vatline/contract/pool/host';
import type { RolloutHost } from '@vatline/contract/rollout';
import { TestServer } from './harness.ts';
import { nightlyRollout } from './usual-requests.ts';

const HOSTS = 11;
let server: TestServer;
let poolId: string;
let rolloutId: string;
let makingJob: string;

beforeAll(async () => {
  server = await TestServer.open();
  const { versionId: first, lineId } = await server.makeVersion();
  await server.buildAndCut(lineId);
  const body = server.newPool(first, { name: 'paged', pattern: 'WCL-PG-##', count: HOSTS });
  ({ poolId, jobId: makingJob } = await server.send<{ poolId: string; jobId: string }>(
    'post',
    '/pools',
    body,
  ));
  await server.untilEnded(makingJob);
  const [newest] = (await server.get<{ versions: { id: string }[] }>(`/lines/${lineId}`)).versions;
  const request = nightlyRollout(poolId, newest?.id ?? '', 4);
  ({ id: rolloutId } = await server.send<{ id: string }>('post', '/rollouts', request));
});
afterAll(() => server.close());

/** All rows of a list by pages of so many, and how many each page said there are. */
async function read<T>(path: string, limit: number): Promise<{ rows: T[]; totals: number[] }> {
  const rows: T[] = [];
  const totals: number[] = [];
  let after: string | null = null;
  do {
    const next: string = after === null ? '' : `&after=${encodeURIComponent(after)}`;
    const sign = path.includes('?') ? '&' : '?';
    const page: Page<T> = await server.get<Page<T>>(`${path}${sign}limit=${limit}${next}`);
    rows.push(...page.rows);
    totals.push(page.total);
    after = page.next;
  } while (after !== null);
  return { rows, totals };
}

const named = (n: number) => `WCL-PG-${String(n).padStart(2, '0')}`;
const all = Array.from({ length: HOSTS }, (_, i) => named(i + 1));

describe('hosts of a pool', () => {
  it.each([1, 3, 4, 11, 12, 500])('by %i a page are all there, each once, in order', async (limit) => {
    const { rows, totals } = await read<Host>(`/pools/${poolId}/hosts`, limit);
    expect(rows.map((host) => host.name)).toEqual(all);
    expect(new Set(totals)).toEqual(new Set([HOSTS]));
    expect(totals).toHaveLength(Math.ceil(HOSTS / limit));
  });

  it('that are asked for by a part of a name are counted so too', async () => {
    const { rows, totals } = await read<Host>(`/pools/${poolId}/hosts?q=pg-1`, 1);
    expect([rows.map((host) => host.name), totals]).toEqual([
      ['WCL-PG-10', 'WCL-PG-11'],
      [2, 2],
    ]);
    expect(await server.get(`/pools/${poolId}/hosts?q=none`)).toEqual({ rows: [], total: 0, next: null });
  });

  it('by state stand state by state, and by name in each', async () => {
    await server.app.db
      .updateTable('host')
      .set({ service: 'out of service', work: 'failed' })
      .where('name', 'in', [named(2), named(7)])
      .execute();
    const { rows } = await read<Host>(`/pools/${poolId}/hosts?sort=state`, 2);
    const others = all.filter((name) => name !== named(2) && name !== named(7));
    expect(rows.map((host) => host.name)).toEqual([named(2), named(7), ...others]);
  });

  it('that change their place between two pages neither come twice nor hide others', async () => {
    const first = await server.getAnew<Page<Host>>(`/pools/${poolId}/hosts?sort=state&limit=4`);
    // The last of the page goes to the top; the next page begins where it stood.
    await server.app.db
      .updateTable('host')
      .set({ service: 'draining' })
      .where('name', '=', first.rows.at(-1)?.name ?? '')
      .execute();
    const rest = await server.getAnew<Page<Host>>(
      `/pools/${poolId}/hosts?sort=state&limit=500&after=${first.next ?? ''}`,
    );
    expect([...first.rows, ...rest.rows].map((host) => host.name).sort()).toEqual(all);
    await server.app.db.updateTable('host').set({ service: 'in service', work: 'none' }).execute();
  });

  it.each(['', 'x', 'WyJhIl0', Buffer.from('[1,2]').toString('base64url'), 'e30'])(
    'behind %j, which is no place in them, are refused at that',
    async (after) => {
      const { status, paths } = await server.refused('get', `/pools/${poolId}/hosts?after=${after}`);
      expect([status, paths]).toEqual([422, ['after']]);
    },
  );

  it('by more than a page holds are refused at the limit', async () => {
    const { faults } = await server.refused('get', `/pools/${poolId}/hosts?limit=501`);
    expect(faults).toEqual([{ path: 'limit', message: 'is more than 500; ask for the next page' }]);
  });

  it('are cells in the same order, all at once', async () => {
    const cells = await server.get<Cell[]>(`/pools/${poolId}/cells`);
    expect(cells.map((cell) => cell.name)).toEqual(all);
  });
});

describe('hosts of a rollout', () => {
  it('come as they begin, or those that need somebody first', async () => {
    const byTurn = (await read<RolloutHost>(`/rollouts/${rolloutId}/hosts`, 3)).rows;
    expect(byTurn.map((row) => row.host.name)).toEqual(all);
    const stages = { 0: 'done', 1: 'rebuilding', 4: 'failed', 9: 'set aside' } as const;
    for (const [i, stage] of Object.entries(stages))
      await server.app.db
        .updateTable('rollout_host')
        .set({ stage })
        .where('rollout_id', '=', rolloutId)
        .where('number', '=', Number(i))
        .execute();
    const { rows } = await read<RolloutHost>(`/rollouts/${rolloutId}/hosts?sort=stage`, 2);
    const waiting = [2, 3, 5, 6, 7, 8, 10];
    expect(rows.map((row) => row.host.name)).toEqual([4, 1, ...waiting, 0, 9].map((i) => all[i]));
    const failed = await server.get<Page<RolloutHost>>(`/rollouts/${rolloutId}/hosts?stage=failed`);
    expect([failed.total, failed.rows.map((row) => row.host.name)]).toEqual([1, [all[4]]]);
  });

  it('are cells as they begin, with what each runs and is to run', async () => {
    const cells = await server.get<Cell[]>(`/rollouts/${rolloutId}/cells`);
    expect(cells.map((cell) => cell.name)).toEqual(all);
    expect(cells.every((cell) => cell.next !== null && cell.next !== cell.dye)).toBe(true);
  });
});

describe('the ledger of a job', () => {
  it('has four objects a host, and the pool at the broker, page by page, and says how many are in which state', async () => {
    const { rows } = await read<LedgerRow>(`/jobs/${makingJob}/ledger`, 7);
    // Machine, account, registration and the agent's first report.
    const all = 4 * HOSTS + 1;
    expect(rows).toHaveLength(all);
    expect(new Set(rows.map((row) => `${row.system} ${row.object}`)).size).toBe(all);
    const { ledger } = await server.get<{ ledger: object }>(`/jobs/${makingJob}`);
    expect(ledger).toEqual({ made: all });
    const undone = await server.get<Page<LedgerRow>>(`/jobs/${makingJob}/ledger?state=undone`);
    expect(undone).toEqual({ rows: [], total: 0, next: null });
  });
});

describe('the journal', () => {
  it('comes newest first, page by page, the same as all at once', async () => {
    const once = (await server.get<Page<JournalRow>>('/journal?limit=500')).rows;
    const { rows, totals } = await read<JournalRow>('/journal', 2);
    expect(rows).toEqual(once);
    expect(totals[0]).toBe(once.length);
    expect([...rows].sort((a, b) => b.id - a.id)).toEqual(rows);
  });

  it('that is filtered counts what it shows; % and _ are letters of no text', async () => {
    const kept = await server.get<Page<JournalRow>>('/journal?q=was%20begun');
    expect([kept.total, kept.rows.every((row) => row.text.includes('was begun'))]).toEqual([1, true]);
    expect(kept.rows[0]).toMatchObject({ by: 'engineer', text: 'Records desktop was begun' });
  });
});

describe('packages and people', () => {
  beforeAll(async () => {
    const packages = Array.from({ length: 16 }, (_, i) => ({
      id: `package-${i}`,
      name: `${i % 2 === 0 ? 'Reader' : 'Labels'} ${i}`,
      publisher: i % 4 === 0 ? 'Halvane' : 'Quillmark',
      delivery: 'container' as const,
      note: '',
    }));
    await server.app.db.insertInto('package').values(packages).execute();
  });

  it('come page by page, by name, each once, with how many there are', async () => {
    const packages = await read<{ name: string }>('/packages', 7);
    const names = packages.rows.map((row) => row.name);
    expect(names).toEqual([...names].sort());
    expect(names).toHaveLength(16);
    expect(new Set(names).size).toBe(packages.totals[0]);
    const people = await read<{ account: string }>('/estate/users?q=clerk', 9);
    expect(new Set(people.rows.map((row) => row.account)).size).toBe(people.totals[0]);
    expect(people.rows.length).toBeGreaterThan(9);
  });

  it('are found by a part of what they are called', async () => {
    const { rows } = await server.get<Page<{ name: string; publisher: string }>>('/packages?q=HALVANE');
    expect(rows).toHaveLength(4);
    expect(rows.every((row) => `${row.name} ${row.publisher}`.includes('Halvane'))).toBe(true);
    expect(await server.get('/packages?q=no%20such%20thing')).toEqual({ rows: [], total: 0, next: null });
    expect(await server.get('/estate/users?q=no%20such%20person')).toEqual({
      rows: [],
      total: 0,
      next: null,
    });
  });

  it.each(['/packages', '/estate/users'])('%s refuses a place that is none', async (path) => {
    const { status, paths } = await server.refused('get', `${path}?after=x`);
    expect([status, paths]).toEqual([422, ['after']]);
  });
});
