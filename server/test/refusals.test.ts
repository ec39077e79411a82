/**
 * What every endpoint refuses: things that are not there, bodies that lack something, and what no
 * endpoint takes. Each refusal is a problem document with a sentence, its faults at their fields.
 */
import request from 'supertest';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { api } from '@vatline/contract/api';
import type { Endpoint } from '@vatline/contract/endpoint';
import { newInstallation } from '@vatline/core/installed/installation';
import { restingRules } from '@vatline/core/pool/readiness';
import { hardware, recipe, TestServer } from './harness.ts';
import { smallPool } from './usual-requests.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.open();
});
afterAll(() => server.close());

const all = Object.entries(api).flatMap(([group, endpoints]) =>
  Object.entries(endpoints).map(([name, endpoint]): [string, Endpoint] => [`${group}.${name}`, endpoint]),
);
const filled = (path: string) => path.replace(/:\w+/g, 'not-there');
const refused = ({ method, path }: Endpoint, body: object = {}, query = '') =>
  server.refused(method, filled(path) + query, body);

const installation = newInstallation({ name: 'Reader', publisher: 'Quillmark', version: '1' });
const rule = { id: 'r', action: 'drop', glob: '**/*.log', reason: 'logs' };

/** A body that is right in itself, of those that need one. */
const runningPlan = {
  window: { rule: 'FREQ=DAILY', start: '01:00', end: '05:00' },
  zone: 'UTC',
  batch: 1,
  maxUnavailable: 1,
  drainLimitMinutes: 0,
  reserve: null,
};

const nothingToRun = { poolId: 'not-there', imageVersionId: 'not-there', packageVersionIds: [] };

const bodies: Readonly<Record<string, object>> = {
  'recurring.keep': { takes: 'made anew', plan: runningPlan, basedOn: 0 },
  'keptPlans.add': { name: 'a plan', request: { ...runningPlan, ...nothingToRun } },
  'keptPlans.keep': { name: 'a plan', request: { ...runningPlan, ...nothingToRun }, basedOn: 1 },
  'images.saveRecipe': { steps: recipe, basedOn: 1 },
  'images.setCheckpointBudget': { bytes: 2e9 },
  'images.machine': { action: 'run' },
  'images.switchCheckOff': { reason: 'it does not count here' },
  'images.setState': { state: 'in test' },
  'images.deleteVersions': { versionIds: ['not-there'] },
  'images.setRetention': { keep: 3 },
  'cutSchedules.keep': {
    rule: 'FREQ=WEEKLY;BYDAY=SA',
    at: '02:00',
    zone: 'Europe/Dublin',
    takeUpdates: true,
    onlyIfChanged: true,
    leaveRunning: false,
    waitHours: 1,
    rollouts: [],
    basedOn: 0,
  },
  'directory.givePassword': { password: 'any' },
  'hosts.handOver': { account: null },
  'hostActions.preview': { action: 'hold', hosts: ['not-there'] },
  'hostActions.act': { action: 'hold', hosts: ['not-there'] },
  'handWork.note': { text: 'a note' },
  'handWork.change': { kind: 'uninstall', name: 'Reader' },
  'captures.judge': { rules: null },
  'captures.keepDraft': { manifest: {}, confirmed: [], updatersOff: false },
  'captures.pack': { name: 'Reader', publisher: 'Quillmark', version: '1', entryPoints: [] },
  'optionSheets.change': {
    name: 'Reader',
    publisher: 'Quillmark',
    version: '1',
    options: [],
    rules: [],
    templates: [],
    basedOn: 1,
  },
  'optionSheets.keepSheet': { values: {}, basedOn: 0 },
  'packages.change': { keepVersions: 2 },
  'packages.deleteVersions': { versionIds: ['not-there'] },
  'packages.setState': { state: 'held' },
  'packages.trial': { host: 'WCL-PB-01' },
  'packages.choose': { format: 'oci' },
  'packages.sign': { certificateId: 'not-there' },
  'installations.keep': { ...installation, basedOn: 1 },
  'installations.forecast': { ...installation },
  'bulk.begin': { action: 'convert', format: 'oci', versionIds: ['not-there'] },
  'poolSettings.change': {
    settings: { size: 'desk-2', kind: 'pooled', clone: 'linked', sessionLimit: 1 },
    basedOn: 1,
  },
  'pools.holdSource': { reason: 'audit' },
  'readiness.keep': { rules: restingRules(1), isKept: false, basedOn: 0 },
  'moreHosts.preview': { count: 1 },
  'moreHosts.add': { count: 1 },
  'streaming.switchPool': { imageVersionId: 'not-there' },
  'pools.create': smallPool('refused', 'not-there', 'WCL-R-#', 2),
  'estate.setClock': { action: 'next event' },
  'shares.setRights': { hosts: 'read', packagers: 'write', users: 'nothing' },
  'rollouts.host': { action: 'retry' },
  'rollouts.pause': { why: 'refused' },
  'rollouts.previewPlan': runningPlan,
  'rollouts.changePlan': { plan: runningPlan, why: 'refused', basedOn: 1 },
  'ringOrders.keep': {
    name: 'refused',
    rings: [
      {
        name: 'all',
        poolId: 'not-there',
        take: { by: 'rest' },
        plan: runningPlan,
        gate: {
          finishedShare: 1,
          soakHours: 0,
          needsApproval: false,
          watchesSignIns: false,
          goesBack: false,
        },
      },
    ],
    basedOn: 1,
  },
  'stagedRollouts.decide': { ring: 0, what: 'approve', why: 'refused', seen: 0 },
  'stagedRollouts.stop': { why: 'refused' },
  'calendars.replace': { text: 'BEGIN:VCALENDAR', basedOn: 1 },
};

/** Named by who asks and made where there is none, or about no single thing; with the reason. */
const always: Readonly<Record<string, string>> = {
  'fragments.keep': 'a name that is not there is a new fragment',
  'noiseRules.keep': 'a name that is not there is a new set',
};

/** Refused as faulty before anything is looked for. */
const formsAndFiles: readonly string[] = ['captures.keepDraft', 'captures.pack', 'optionSheets.change'];

const aboutOne = all.filter(([name, { path }]) => path.includes(':') && always[name] === undefined);

describe('what is not there', () => {
  it.each(aboutOne)('%s says so', async (name, endpoint) => {
    const query = queryFor(endpoint);
    const { status, detail } = await refused(endpoint, bodies[name] ?? {}, query);
    if (formsAndFiles.includes(name)) expect([404, 422]).toContain(status);
    else expect([name, status, detail]).toEqual([name, 404, detail]);
    expect(detail).toMatch(/\S+ \S+/);
    expect(detail).not.toMatch(/undefined|\[object|SQLITE/);
  });
});

/** The query that an endpoint cannot do without. */
function queryFor({ query }: Endpoint): string {
  const lacks = query.safeParse({});
  if (lacks.success) return '';
  const names = lacks.error.issues.map((issue) => issue.path.join('.'));
  return `?${names.map((name) => `${name}=a`).join('&')}`;
}

describe('a body that lacks everything', () => {
  const needing = all.filter(
    ([, endpoint]) => endpoint.method !== 'get' && !endpoint.body.safeParse({}).success,
  );

  it.each(needing)('%s names each field, and keeps nothing', async (_name, endpoint) => {
    const { status, paths, detail } = await refused(endpoint);
    const wanted = endpoint.body.safeParse({}).error?.issues.map((issue) => issue.path.join('.')) ?? [];
    expect([status, [...paths].sort()]).toEqual([422, [...wanted].sort()]);
    expect(detail.length).toBeGreaterThan(3);
  });
});

describe('what no endpoint takes', () => {
  const json = all.filter(([, endpoint]) => !('takes' in endpoint));

  it.each(json)('%s: a field of the query that it does not know', async (_name, endpoint) => {
    const { status, paths } = await refused(endpoint, {}, '?nonsense=1');
    expect(status).toBe(422);
    expect(paths).toContain('nonsense');
  });

  // A draft is kept as it is typed, whatever it holds by then.
  it.each(json.filter(([name, { method }]) => method !== 'get' && name !== 'captures.keepDraft'))(
    '%s: a field of the body that it does not know',
    async (name, endpoint) => {
      const { status, faults } = await refused(endpoint, { ...(bodies[name] ?? {}), nonsense: 1 });
      expect(status).toBe(422);
      expect(faults).toContainEqual({ path: 'nonsense', message: 'is not known here' });
    },
  );

  it('a body that is no JSON, one that is too large, and an address that is none', async () => {
    const broken = await request(server.app.http)
      .post('/api/v1/lines')
      .set('content-type', 'application/json')
      .send('{"name": ');
    expect([broken.status, broken.text]).toEqual([400, expect.stringMatching(/JSON/)]);
    const large = await server.refused('post', '/lines', { name: 'x'.repeat(3e6), hardware });
    expect([large.status, large.detail]).toEqual([413, expect.stringMatching(/large/)]);
    const none = await server.refused('get', '/nothing/here');
    expect([none.status, none.detail]).toEqual([404, 'There is no such address in the API']);
  });
});

describe('who may not', () => {
  it('approve as an engineer is told so at the state, and may as an approver', async () => {
    const { versionId } = await server.makeVersion('Approved desktop');
    const path = `/versions/${versionId}`;
    const { status, paths, detail } = await server.refused('patch', path, { state: 'approved' });
    expect([status, paths, detail]).toEqual([
      422,
      ['state'],
      'state an approver approves; you act as engineer',
    ]);
    expect(await server.send('put', '/caller', { role: 'approver' })).toEqual({ role: 'approver' });
    expect(await server.send('patch', path, { state: 'approved' })).toMatchObject({ state: 'approved' });
    expect(await server.get('/caller')).toEqual({ role: 'approver' });
    await server.restart();
    expect(await server.get('/caller')).toEqual({ role: 'approver' });
    expect((await server.refused('put', '/caller', { role: 'owner' })).paths).toEqual(['role']);
  });

  it('say who they are themselves: the server knows', async () => {
    const { paths } = await server.refused('patch', '/versions/v', { state: 'in test', by: 'approver' });
    expect(paths).toContain('by');
  });
});

describe('bounds of rules', () => {
  it('noise rules with a pattern for ever are refused at the rule', async () => {
    const { status, paths } = await server.refused('put', '/noise-rules/a', {
      rules: [{ ...rule, glob: '' }],
      basedOn: 0,
    });
    expect([status, paths.length > 0]).toEqual([422, true]);
  });
});
