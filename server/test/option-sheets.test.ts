/** Option sheets over HTTP: declarations and sheets are checked, kept, and checked anew when the suite changes. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { KeptSuite } from '@vatline/contract/option-sheet';
import { readSuiteFile, writeSuiteFile } from '@vatline/contract/option-suite-file';
import { brackenote, brackenoteSheets } from '@vatline/demo/option-suites';
import { TestServer } from './harness.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.open();
});
afterAll(() => server.close());

const [desks] = brackenoteSheets;

describe('a suite', () => {
  let id: string;
  const kept = async () => (await server.get<KeptSuite[]>('/option-suites')).find((one) => one.id === id);

  it('is declared, and its file is the same when it is read again', async () => {
    ({ id } = await server.send<{ id: string }>('post', '/option-suites', brackenote));
    const suite = (await kept())?.suite;
    expect(suite).toEqual(brackenote);
    const read = suite && readSuiteFile(writeSuiteFile(suite));
    expect(read?.ok && read.value).toEqual(brackenote);
  });

  it('takes sheets that fit, and refuses others at their options', async () => {
    await server.send('put', `/option-suites/${id}/sheets/Branch%20desks`, {
      values: desks?.values,
      basedOn: 0,
    });
    expect((await kept())?.sheets).toMatchObject([
      { name: 'Branch desks', values: desks?.values, faults: [] },
    ]);
    const refused = await server.refused('put', `/option-suites/${id}/sheets/Other`, {
      values: { ...desks?.values, edition: 'Gold', channel: 'Preview' },
      basedOn: 0,
    });
    expect(refused.paths).toEqual(['values.edition', 'values.shared']);
    expect((await kept())?.sheets).toHaveLength(1);
  });

  it('changed, its sheets stay and say what does not fit any more', async () => {
    const [edition, ...others] = brackenote.options;
    const options = [{ ...edition, choices: ['Standard', 'Viewer'] }, ...others];
    await server.send('put', `/option-suites/${id}`, { ...brackenote, options, basedOn: 1 });
    expect((await kept())?.sheets[0]).toMatchObject({
      values: desks?.values,
      faults: [{ path: 'edition', message: 'cannot be “Complete”; choose one of Standard, Viewer' }],
    });
  });

  it.each([
    ['no option', { options: [] }, 'options'],
    ['an unknown kind', { options: [{ ...brackenote.options[0], kind: 'slider' }] }, 'options.0.kind'],
    [
      'a template with an unknown name',
      { templates: [{ name: 'x', form: 'plain', text: '{{nope}}' }] },
      'templates.0.text',
    ],
  ])('with %s is refused', async (_what, change, path) => {
    const refused = await server.refused('post', '/option-suites', { ...brackenote, rules: [], ...change });
    expect(refused.paths).toEqual([path]);
  });

  it('goes with its sheets', async () => {
    expect((await server.refused('delete', `/option-suites/${id}/sheets/Nobody`)).status).toBe(404);
    await server.send('delete', `/option-suites/${id}/sheets/Branch%20desks`);
    await server.send('delete', `/option-suites/${id}`);
    expect(await server.get('/option-suites')).toEqual([]);
  });

  it('as a text, faults are at their lines', () => {
    const read = readSuiteFile(
      'name: A\npublisher: B\nversion: "1"\noptions:\n  - id: a b\n    label: A\n    kind: text\n    default: ""\nrules: []\ntemplates: []\n',
    );
    expect(read.ok ? [] : read.error.map((fault) => [fault.line, fault.path])).toEqual([
      [5, 'options.0.id'],
      [10, 'templates'],
    ]);
  });
});
