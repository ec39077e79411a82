import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Fragment } from '@vatline/contract/fragment';
import type { LineDetail } from '@vatline/contract/image';
import type { Step } from '@vatline/core/image/recipe';
import { hardware, recipe, TestServer } from './harness.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.open();
});
afterAll(() => server.close());

const setting = (name: string): Step => ({
  id: name,
  kind: 'registry setting',
  key: 'Machine\\Quiet',
  name,
  type: 'REG_SZ',
  value: '1',
});
const use = (revision: number): Step => ({ id: 'quiet', kind: 'fragment', fragment: 'Quiet', revision });
const keep = (steps: Step[], basedOn: number, name = 'Quiet') =>
  server.send('put', `/fragments/${name}`, { steps, basedOn });
const refused = (name: string, body: object) => server.refused('put', `/fragments/${name}`, body);

describe('a fragment', () => {
  let id: string;

  it('is kept by revision; a newer one in between is a conflict', async () => {
    expect(await keep([setting('a')], 0)).toEqual({ revision: 1 });
    expect(await keep([setting('a'), setting('b')], 1)).toEqual({ revision: 2 });
    expect((await refused('Quiet', { steps: [setting('c')], basedOn: 1 })).detail).toBe(
      'Revision 2 of Quiet was kept meanwhile; this change is based on 1',
    );
    expect((await refused('Quiet', { steps: [setting('c')], basedOn: 0 })).detail).toBe(
      'There is a fragment named Quiet already',
    );
  });

  it('is refused empty, with odd names, unknown fragments, or when it contains itself', async () => {
    expect((await refused('New', { steps: [], basedOn: 0 })).detail).toContain('The fragment has no steps');
    expect((await refused('a~b', { steps: [setting('a')], basedOn: 0 })).paths).toEqual(['name']);
    const outer: Step = { id: 'o', kind: 'fragment', fragment: 'Outer', revision: 1 };
    expect((await refused('New', { steps: [outer], basedOn: 0 })).detail).toContain(
      'there is no fragment "Outer"',
    );
    await keep([use(1)], 0, 'Outer');
    expect((await refused('Quiet', { steps: [outer], basedOn: 2 })).faults).toEqual([
      { path: 'steps.0.fragment', message: '"Quiet" contains itself: Quiet in Outer in Quiet' },
    ]);
  });

  it('in a recipe runs its steps; taking a newer revision runs only what is new', async () => {
    ({ id } = await server.send<{ id: string }>('post', '/lines', { name: 'Quiet desk', hardware }));
    const steps = (revision: number) => [...recipe.slice(0, 4), use(revision), recipe[4]];
    expect(
      (await server.refused('put', `/lines/${id}/recipe`, { steps: steps(9), basedOn: 1 })).faults,
    ).toEqual([{ path: 'steps.4.revision', message: '"Quiet" has no revision 9; its newest is 2' }]);
    await server.send('put', `/lines/${id}/recipe`, { steps: steps(1), basedOn: 1 });
    await server.buildAndCut(id);
    await server.send('put', `/lines/${id}/recipe`, { steps: steps(2), basedOn: 2 });
    const job = await server.run(`/lines/${id}/builds`);
    expect(job.steps.map((step) => step.title)).toEqual([
      'Back to the checkpoint after step 5',
      'Registry setting',
      'Restart',
    ]);
    const entries = await server.inventory(`machine:${id}`);
    expect(entries.filter((e) => e.kind === 'registry' && e.key === 'Machine\\Quiet')).toHaveLength(2);
  });

  it('tells where it is used and how far each line is behind', async () => {
    await keep([setting('a'), setting('b'), setting('c')], 2);
    const quiet = (await server.get<Fragment[]>('/fragments')).find((row) => row.name === 'Quiet');
    expect(quiet?.usedBy).toEqual([{ lineId: id, line: 'Quiet desk', revision: 2, behind: 1 }]);
    expect(quiet?.revisions.map((row) => row.revision)).toEqual([3, 2, 1]);
    expect(Object.keys((await server.get<LineDetail>(`/lines/${id}`)).fragments)).toContain('Quiet@3');
  });
});
