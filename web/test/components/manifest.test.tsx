/** The manifest in the making: what is guessed and from where, what is kept as it is typed, what is built. */
import { cleanup, fireEvent, screen, within } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { Capture, CaptureDraft } from '@vatline/contract/capture';
import type { PackageManifest } from '@vatline/core/container/manifest';
import { ManifestForm } from '../../src/packages/manifest/manifest-form.tsx';
import { useDraft } from '../../src/packages/manifest/use-draft.ts';
import type { DifferenceCalls } from '../../src/packages/capture/use-difference.ts';
import { choose, refusal, shown, type Answers } from './shown.tsx';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const manifest: PackageManifest = {
  name: 'Pellam Reader',
  publisher: 'Pellam',
  version: '9.0',
  entryPoints: [{ name: 'Reader', path: 'Pellam/reader.exe', icon: 'Pellam/reader.ico' }],
};
const container = (format: string, bytes: number | null, seconds: number | null = 2.25) => ({
  format,
  bytes,
  seconds,
  lost: [],
});
const estimate = {
  bytes: 71_400_000,
  files: 412,
  settings: 3,
  obstacles: [],
  containers: [container('squashfs', 30e6), container('vhdx', 80e6, null), container('oci', 31e6)],
};
const calls = {
  programs: () => Promise.resolve(['Pellam/reader.exe', 'Pellam/convert.exe']),
} as unknown as DifferenceCalls;
const capture = { id: 'c1', activeJob: null } as Capture;
const pictures = { 'Pellam/reader.ico': { fault: '' }, 'Pellam/old.ico': { fault: 'is cut short' } };

function Form() {
  const draft = useDraft('c1', false);
  return draft ? <ManifestForm capture={capture} calls={calls} draft={draft} pictures={pictures} /> : null;
}

interface Given {
  readonly manifest?: PackageManifest;
  readonly sources?: Record<string, string>;
  readonly more?: Answers;
}

async function show({ manifest: own = manifest, sources = {}, more = {} }: Given = {}) {
  const view = shown(<Form />, {
    'GET /captures/c1/draft': { manifest: own, confirmed: [], updatersOff: false, sources },
    'PUT /captures/c1/draft': { done: true },
    'GET /captures/c1/estimate': estimate,
    'POST /captures/c1/container': { jobId: 'j1' },
    ...more,
  });
  await screen.findByRole('region', { name: 'The package' });
  const kept = () =>
    view.sent.filter((one) => one.call.startsWith('PUT')).map((one) => one.body as CaptureDraft);
  const nextKept = async () => {
    const before = kept().length;
    await vi.waitFor(() => expect(kept().length).toBeGreaterThan(before), 3000);
    return kept().at(-1) as CaptureDraft & { manifest: PackageManifest };
  };
  return { ...view, kept, nextKept };
}
const type = (label: string, text: string) =>
  fireEvent.change(screen.getByLabelText(label), { target: { value: text } });
const people = () => screen.getByRole('region', { name: 'What people open' });

describe('a guess', () => {
  it('says from where, and is one no more when it was confirmed or changed', async () => {
    const { user, nextKept } = await show({
      sources: { version: 'the file version of reader.exe', publisher: 'its signature' },
    });
    expect([...document.querySelectorAll('.guess')].map((one) => one.textContent)).toEqual([
      'guessed from its signatureconfirm',
      'guessed from the file version of reader.execonfirm',
    ]);
    const confirming = nextKept();
    await user.click(screen.getByRole('button', { name: 'Confirm Publisher' }));
    expect((await confirming).confirmed).toEqual(['publisher']);
    expect(screen.queryByText(/its signature/)).toBeNull();
    const changing = nextKept();
    type('Version', '9.0.1');
    expect(screen.queryByText(/guessed from/)).toBeNull();
    const kept = await changing;
    expect([kept.confirmed, kept.manifest.version]).toEqual([['publisher', 'version'], '9.0.1']);
  });
});

describe('what is typed', () => {
  it('is kept once the next letters do not come, and not letter by letter', async () => {
    const { kept, nextKept } = await show();
    const keeping = nextKept();
    for (const text of ['R', 'Re', 'Rea']) type('Description', text);
    expect(kept()).toEqual([]);
    expect((await keeping).manifest.description).toBe('Rea');
    expect(kept()).toHaveLength(1);
  });

  it('is sent when somebody leaves at once', async () => {
    const { kept, unmount } = await show();
    type('Licence', 'MIT');
    unmount();
    await vi.waitFor(() => expect(kept().map((one) => one.manifest['licence'])).toEqual(['MIT']));
  });

  it('may be emptied: what need not be said is left out, what must be is empty', async () => {
    const { nextKept } = await show({ manifest: { ...manifest, licence: 'MIT' } });
    const keeping = nextKept();
    type('Licence', '');
    type('Name', '');
    const kept = await keeping;
    expect('licence' in kept.manifest).toBe(false);
    expect(kept.manifest.name).toBe('');
  });
});

describe('an entry point', () => {
  it('has its program, its picture and what it opens', async () => {
    const view = await show();
    const program = view.nextKept();
    await choose(view, 'Program of Reader', 'Pellam/convert.exe');
    expect((await program).manifest.entryPoints[0]?.path).toBe('Pellam/convert.exe');
    const picture = view.nextKept();
    await choose(view, 'Picture of Reader', 'Pellam/old.ico, which is cut short');
    expect((await picture).manifest.entryPoints[0]?.icon).toBe('Pellam/old.ico');
    const files = view.nextKept();
    await view.user.type(screen.getByRole('combobox', { name: 'Files that Reader opens' }), '.pel .pdx ');
    expect((await files).manifest.entryPoints[0]?.associations).toEqual(['.pel', '.pdx']);
  });

  it('is added under the name of the package, and can be removed while there is another', async () => {
    const { user, nextKept } = await show();
    expect(within(people()).queryByText('remove')).toBeNull();
    const adding = nextKept();
    await user.click(screen.getByText('add an entry point'));
    expect((await adding).manifest.entryPoints.map((one) => [one.name, one.path])).toEqual([
      ['Reader', 'Pellam/reader.exe'],
      ['Pellam Reader', ''],
    ]);
    expect(within(people()).getAllByText('remove')).toHaveLength(2);
    const removing = nextKept();
    await user.click(within(people()).getAllByText('remove')[0] as HTMLElement);
    expect((await removing).manifest.entryPoints.map((one) => one.name)).toEqual(['Pellam Reader']);
  });

  it('is called by its number while it has no name', async () => {
    await show({ manifest: { ...manifest, entryPoints: [{ name: '', path: '' }] } });
    expect(within(people()).getByText('Entry point 1')).toBeTruthy();
  });
});

describe('what it needs', () => {
  it('is rows of name and range; a row can go again', async () => {
    const { user, nextKept } = await show();
    expect(screen.getByText('It needs no other package.')).toBeTruthy();
    await user.click(screen.getByText('add a package that it needs'));
    const keeping = nextKept();
    type('Needed package, 1', 'Quaybolt Runtime');
    type('Versions that will do, 1', '>=5.0 <6');
    expect((await keeping).manifest.dependencies).toEqual([{ name: 'Quaybolt Runtime', range: '>=5.0 <6' }]);
    const removing = nextKept();
    await user.click(screen.getByRole('button', { name: 'Remove Quaybolt Runtime' }));
    expect((await removing).manifest.dependencies).toEqual([]);
  });
});

describe('containers', () => {
  const build = () => screen.getByRole('button', { name: /^Build/ });

  it('have a size and a time each, or cannot hold it', async () => {
    const containers = [container('squashfs', 30e6), container('vhdx', null, null)];
    await show({ more: { 'GET /captures/c1/estimate': { ...estimate, containers } } });
    const table = await screen.findByRole('table');
    await vi.waitFor(() => expect(table.querySelectorAll('tbody tr')).toHaveLength(2));
    const cells = [...table.querySelectorAll('tbody tr')].map((row) =>
      [...row.querySelectorAll('td.number')].map((cell) => cell.textContent),
    );
    expect(cells).toEqual([
      ['30 MB', '2.3 s'],
      ['cannot hold it', 'not known yet'],
    ]);
    expect(
      within(table)
        .getAllByRole<HTMLInputElement>('checkbox')
        .map((one) => [one.checked, one.disabled]),
    ).toEqual([
      [true, false],
      [false, true],
    ]);
  });

  it('are built from what stands here, and every guess is confirmed by that', async () => {
    const { user, sent, kept } = await show({ sources: { name: 'its folder', version: 'its file' } });
    await vi.waitFor(() => expect(build().textContent).toBe('Build 3 containers'));
    expect(screen.getByText('and confirm 2 guesses')).toBeTruthy();
    await user.click(build());
    await vi.waitFor(() =>
      expect(sent.find((one) => one.call === 'POST /captures/c1/container')?.body).toMatchObject({
        name: 'Pellam Reader',
        updatersOff: false,
        formats: ['squashfs', 'vhdx', 'oci'],
      }),
    );
    await vi.waitFor(() => expect(kept().at(-1)?.confirmed).toEqual(['name', 'version']));
    expect(screen.queryByText(/guessed from/)).toBeNull();
  });

  it('are not built when none is chosen', async () => {
    const { user } = await show();
    await vi.waitFor(() => expect(build().textContent).toBe('Build 3 containers'));
    const containers = screen.getByRole('region', { name: 'Containers' });
    for (const box of within(containers).getAllByRole('checkbox')) await user.click(box);
    expect([build().textContent, (build() as HTMLButtonElement).disabled]).toEqual([
      'Build 0 containers',
      true,
    ]);
  });

  it('name what a format does not keep, once for those that say the same', async () => {
    const lost = [{ kind: 'owners', becomes: 'the one who unpacks', entries: 2, paths: ['a/b', 'c'] }];
    const containers = [
      { ...container('squashfs', 1), lost: [] },
      { ...container('vhdx', 1), lost },
      { ...container('oci', 1), lost },
    ];
    await show({ more: { 'GET /captures/c1/estimate': { ...estimate, containers } } });
    expect(await screen.findByText(/^Not kept in/)).toBeTruthy();
    expect(
      screen.getAllByText(
        /^Not kept in “.*” and “.*”: owners of 2 paths, such as a\/b: the one who unpacks\.$/,
      ),
    ).toHaveLength(1);
  });

  it('what is refused stands at its field: of a name, of an entry point, of a file ending', async () => {
    const faults = {
      publisher: 'is empty',
      'entryPoints.0.path': 'is not in the container',
      'entryPoints.0.associations.0': 'must begin with a dot',
      formats: 'too large for a disk',
    };
    const { user } = await show({
      manifest: { ...manifest, entryPoints: [{ name: 'Reader', path: 'x', associations: ['pel'] }] },
      more: { 'POST /captures/c1/container': refusal(faults) },
    });
    await vi.waitFor(() => expect(build().textContent).toBe('Build 3 containers'));
    await user.click(build());
    await screen.findByText('is empty');
    const at = (label: string) =>
      screen.getByText(label, { selector: '.field-label' }).closest('.field')?.querySelector('[role=alert]')
        ?.textContent;
    expect([at('Publisher'), at('Program'), at('Opens files')]).toEqual([
      'is empty',
      'is not in the container',
      'must begin with a dot',
    ]);
    expect(screen.getAllByText('too large for a disk')).toHaveLength(1);
  });
});
