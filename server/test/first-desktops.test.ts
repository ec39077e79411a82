/** First desktops from an empty start: begun once, made to the end, whatever comes between. */
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { SeeAs } from '@vatline/contract/access';
import type { FirstDraft, FirstPreview, FirstProgress } from '@vatline/contract/first-desktops';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import { MINUTE, TestServer } from './harness.ts';

let server: TestServer;
beforeEach(async () => (server = await TestServer.open()));
afterEach(() => server.close());

interface Proposal {
  readonly draft: FirstDraft;
  readonly onTheWay: string | null;
}

const proposal = () => server.getAnew<Proposal>('/first-desktops');
const draftWith = async (change: Partial<FirstDraft> = {}) => ({ ...(await proposal()).draft, ...change });
const begin = async (change: Partial<FirstDraft> = {}) =>
  server.send<{ jobId: string; lineId: string }>('post', '/first-desktops', await draftWith(change));
const progress = (id: string) => server.getAnew<FirstProgress>(`/first-desktops/${id}`);

async function untilReady(id: string): Promise<FirstProgress> {
  for (let passed = 0; passed < 40; passed++) {
    const now = await progress(id);
    if ((now.pool?.inService ?? 0) >= now.hosts && now.job.state === 'done') return now;
    if (now.job.state === 'failed') throw new Error(now.job.error ?? 'failed');
    await server.advance(5);
  }
  throw new Error('they are not ready after 200 minutes');
}

describe('first desktops', () => {
  it('proposed are made as they stand, within what was promised, and somebody sees them', async () => {
    const { draft, onTheWay } = await proposal();
    expect(draft).toMatchObject({ line: 'First desktop', pool: 'first-desktops', count: 2, site: 'yard-a' });
    expect(onTheWay).toBeNull();
    const preview = await server.send<FirstPreview>('post', '/first-desktops/preview', draft);
    expect(preview.faults).toEqual([]);
    expect(preview.names).toEqual(['WCL-FIRST-01', 'WCL-FIRST-02']);
    expect(preview.steps.reduce((sum, step) => sum + step.minutes, 0)).toBe(preview.minutes.build);
    const from = server.now;
    const { jobId } = await begin();
    expect((await proposal()).onTheWay).toBe(jobId);
    expect(await progress(jobId)).toMatchObject({ pool: null, isAssigned: false, hosts: 2 });
    const ready = await untilReady(jobId);
    expect(ready.promisedAt).toBe(Math.round(from + preview.p90Minutes * MINUTE));
    // One of ten takes longer than was promised, and it is looked every five minutes.
    expect(server.now - from).toBeLessThan(1.3 * preview.p90Minutes * MINUTE);
    expect(ready).toMatchObject({ isAssigned: true, group: draft.group, pool: { hosts: 2, inService: 2 } });

    const seen = await server.getAnew<SeeAs>(`/see-as?user=${ready.person?.account ?? ''}`);
    expect(seen.groups).toContain(draft.group);
    expect(seen.grants).toContainEqual(
      expect.objectContaining({ kind: 'desktop', pool: 'first-desktops', given: true }),
    );
    // The next ones are called something else.
    expect((await proposal()).draft).toMatchObject({ line: 'First desktop 2', pool: 'first-desktops-2' });
  });

  it('go on after a stop at any moment, and nothing is there twice', async () => {
    const { jobId } = await begin();
    for (const minutes of [1, 17, 22, 9, 9, 4, 4]) {
      await server.advance(minutes);
      await server.restart();
    }
    await untilReady(jobId);
    const pools = await server.getAnew<PoolSummary[]>('/pools');
    expect(pools.map((pool) => [pool.name, pool.hosts])).toEqual([['first-desktops', 2]]);
    const lines = await server.getAnew<{ versions: unknown[] }[]>('/lines');
    expect(lines.map((line) => line.versions.length)).toEqual([1]);
    expect(await server.getAnew<unknown[]>('/assignments')).toHaveLength(1);
  });

  it('asked for twice at once are made once', async () => {
    const body = await draftWith();
    const answers = await Promise.all(
      [1, 2].map(() =>
        server.send('post', '/first-desktops', body).then(
          () => 'begun',
          () => 'refused',
        ),
      ),
    );
    expect([...answers].sort()).toEqual(['begun', 'refused']);
    expect(await server.getAnew<unknown[]>('/lines')).toHaveLength(1);
  });

  it('whose pool is taken meanwhile stop there, and say why', async () => {
    const { versionId } = await server.makeVersion('Other desktop');
    const { jobId } = await begin();
    await server.advance(30);
    await server.send('post', '/pools', server.newPool(versionId, { name: 'first-desktops', count: 1 }));
    const job = await server.untilEnded(jobId);
    expect(job).toMatchObject({ state: 'failed' });
    expect(job.error).toMatch(/there is a pool named first-desktops already/);
    expect(await progress(jobId)).toMatchObject({ pool: null, isAssigned: false });
  });

  it.each<[string, Partial<FirstDraft>, string, RegExp]>([
    ['no name', { line: '' }, 'line', /no name|is empty/],
    [
      'a system of which there are no media',
      { system: 'Desktop OS 9' },
      'system',
      /there are no media of Desktop OS 9/,
    ],
    [
      'an edition that does not come with it',
      { system: 'Desktop OS 24.1', edition: 'multi-session' },
      'edition',
      /Desktop OS 24.1 comes as workstation/,
    ],
    ['a group that is not there', { group: 'Nobody here' }, 'group', /no group named Nobody here/],
    [
      'a unit outside of the directory',
      { unit: 'OU=Desks,DC=elsewhere' },
      'unit',
      /lies outside of the directory/,
    ],
    ['a site that is not there', { site: 'yard-z' }, 'site', /there is no site yard-z/],
    ['no host', { count: 0 }, 'count', /at least 1/],
    ['more than fit', { count: 9_000 }, 'count', /do not fit/],
    ['a pattern without a number', { pattern: 'DESK' }, 'pattern', /#/],
  ])('are refused with %s, and nothing is begun', async (_what, change, path, message) => {
    const { faults } = await server.refused('post', '/first-desktops', await draftWith(change));
    expect(faults.find((fault) => fault.path === path)?.message).toMatch(message);
    expect(await server.getAnew<unknown[]>('/lines')).toHaveLength(0);
  });
});
