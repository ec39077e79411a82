/** What a line keeps: its versions with who set their state, its checkpoints within a budget, and what may go. */
import { cleanup, fireEvent, screen, within } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { ImageVersion, LineDetail } from '@vatline/contract/image';
import type { PackageSummary, PackageVersion } from '@vatline/contract/package';
import { CheckpointTable } from '../../src/images/builds/checkpoint-table.tsx';
import type { LinePlan } from '../../src/images/line-plan.ts';
import { VersionsTab } from '../../src/images/versions/versions-tab.tsx';
import { KeepVersions } from '../../src/packages/containers/keep-versions.tsx';
import { choose, EIGHT, refusal, rowsOfTable, shown, type Answers } from './shown.tsx';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const DAY = 86_400_000;
const posts = (sent: readonly { call: string; body: unknown }[]) =>
  sent.filter((one) => !one.call.startsWith('GET')).map((one) => [one.call, one.body]);

const version = (number: number, change: Partial<ImageVersion> = {}): ImageVersion => ({
  id: `v${number}`,
  lineId: 'l1',
  number,
  dye: 'woad',
  state: 'approved',
  note: '',
  recipeRevision: number,
  jobId: `job-${number}`,
  hardware: null,
  cutAt: EIGHT - (20 - number) * DAY,
  sizeBytes: 30e9,
  changes: [],
  neededBy: [],
  usedBy: [],
  ...change,
});
const line = (change: Partial<LineDetail> = {}): LineDetail =>
  ({
    id: 'l1',
    name: 'Staff multi-session',
    versions: [version(15, { state: 'in test' }), version(14, { neededBy: ['desk-staff'] }), version(13)],
    keepVersions: null,
    activeJob: null,
    checkpoints: [],
    checkpointBudgetBytes: 40e9,
    ...change,
  }) as LineDetail;

describe('versions of a line', () => {
  const show = (change: Partial<LineDetail> = {}, more: Answers = {}) =>
    shown(<VersionsTab line={line(change)} />, {
      'GET /caller': { role: 'engineer' },
      'PUT /lines/l1/retention': { done: true },
      'POST /lines/l1/deletions': { jobId: 'j1' },
      ...more,
    });

  it('stand with what each is, who needs it, and the one before to compare with', async () => {
    show();
    await screen.findByRole('table');
    await vi.waitFor(() =>
      expect(rowsOfTable().map((cells) => [cells[0], cells[1], cells[2], cells[4], cells[5]])).toEqual([
        ['Wo15recipe 15', 'Wed 17 Mar', '30 GB', 'nothing', 'comparebill of materialsstart a line'],
        ['Wo14recipe 14', 'Tue 16 Mar', '30 GB', 'desk-staff', 'comparebill of materialsstart a line'],
        ['Wo13recipe 13', 'Mon 15 Mar', '30 GB', 'nothing', 'bill of materialsstart a line'],
      ]),
    );
    expect(screen.getAllByText('compare')[0]?.getAttribute('href')).toBe(
      '/images/l1/compare?from=version:v14&to=version:v15',
    );
  });

  it('one that was made elsewhere says so, and no line starts from it', async () => {
    show({ versions: [version(1, { recipeRevision: 0, jobId: null })] });
    expect(await screen.findByText('made elsewhere')).toBeTruthy();
    expect(screen.queryByText('start a line')).toBeNull();
  });

  it('say who set the state last, and all changes on hover', async () => {
    const changes = [
      { state: 'approved' as const, by: 'approver', note: '', at: EIGHT },
      { state: 'in test' as const, by: 'engineer', note: '', at: EIGHT - DAY },
    ];
    show({ versions: [version(14, { changes })] });
    const said = await screen.findByText('approver, Mon 22 Mar');
    expect(said.title.split('\n')).toEqual([
      'approved by the approver, Mon 22 Mar 08:00',
      'in test by the engineer, Sun 21 Mar 08:00',
    ]);
  });

  it('a state that the server refuses is said above the table', async () => {
    const view = show(
      {},
      {
        'PATCH /versions/v15': refusal({ '': 'Who tested a version does not approve it' }, 409),
      },
    );
    await screen.findByRole('table');
    await choose(view, 'State of version 15', 'approved');
    expect((await screen.findByRole('alert')).textContent).toBe('Who tested a version does not approve it');
    expect(posts(view.sent)).toEqual([['PATCH /versions/v15', { state: 'approved' }]]);
  });

  it('one acts in a role, which the server keeps', async () => {
    const view = show({}, { 'PUT /caller': { role: 'approver' } });
    await screen.findByRole('table');
    await choose(view, 'You act as', 'approver');
    await vi.waitFor(() => expect(posts(view.sent)).toEqual([['PUT /caller', { role: 'approver' }]]));
  });

  it('without any, one can be brought', async () => {
    show({ versions: [] });
    expect(await screen.findByText(/^No version has been cut yet/)).toBeTruthy();
    expect(screen.getByRole('button', { name: /elsewhere|Import|Bring/ })).toBeTruthy();
  });

  const keep = (n: number) =>
    fireEvent.change(screen.getByLabelText('Versions kept'), { target: { value: String(n) } });
  const retention = () => screen.getByRole('region', { name: 'Retention' });

  it('that nothing needs would go beyond the newest, with the space they free', async () => {
    const { sent, user } = show();
    await screen.findByRole('table');
    expect(within(retention()).getByText('Then nothing goes.')).toBeTruthy();
    keep(1);
    expect(retention().textContent).toContain('Then 1 version would go, 13, and 30 GB be freed.');
    await user.click(screen.getByRole('button', { name: 'Delete 1 version' }));
    await vi.waitFor(() =>
      expect(posts(sent)).toEqual([
        ['PUT /lines/l1/retention', { keep: 1 }],
        ['POST /lines/l1/deletions', { versionIds: ['v13'] }],
      ]),
    );
  });

  it('nothing is deleted when the number to keep was not kept; that is said', async () => {
    const { sent, user } = show({}, { 'PUT /lines/l1/retention': refusal({ '': 'The disk is full' }, 503) });
    await screen.findByRole('table');
    keep(1);
    await user.click(screen.getByRole('button', { name: 'Delete 1 version' }));
    expect((await screen.findByRole('alert')).textContent).toBe('The disk is full');
    expect(posts(sent).map(([call]) => call)).toEqual(['PUT /lines/l1/retention']);
  });

  it('none is deleted while a job works on the line', async () => {
    show({ activeJob: { id: 'j' } as LineDetail['activeJob'] });
    await screen.findByRole('table');
    keep(1);
    expect((screen.getByRole('button', { name: 'Delete 1 version' }) as HTMLButtonElement).disabled).toBe(
      true,
    );
  });
});

describe('checkpoints of a line', () => {
  const checkpoint = (step: number, hoursAgo: number) => ({
    key: `k${step}`,
    step,
    sizeBytes: 10e9,
    usedAt: EIGHT - hoursAgo * 3_600_000,
  });
  const plan = {
    build: { steps: [{ key: 'k0', step: { id: 'r', kind: 'restart' } }] },
  } as unknown as LinePlan;
  const show = (change: Partial<LineDetail> = {}, more: Answers = {}) =>
    shown(
      <CheckpointTable
        line={line({ checkpoints: [checkpoint(0, 50), checkpoint(1, 30), checkpoint(2, 2)], ...change })}
        plan={plan}
      />,
      { 'PUT /lines/l1/checkpoint-budget': { done: true }, ...more },
    );
  const budget = (gigabytes: string) =>
    fireEvent.change(screen.getByLabelText('Gigabytes for checkpoints'), { target: { value: gigabytes } });

  it('say after which step, how much they take, when they were used, and what they did', async () => {
    show();
    expect(screen.getByRole('heading').textContent).toBe('3 checkpoints, 30 GB');
    await vi.waitFor(() =>
      expect(rowsOfTable()).toEqual([
        ['1', 'Restart', '10 GB', '2 days ago', 'open'],
        ['2', 'of an earlier recipe', '10 GB', '30 h ago', 'openwhat it did'],
        ['3', 'of an earlier recipe', '10 GB', '2 h ago', 'openwhat it did'],
      ]),
    );
    expect(screen.getAllByText('what it did')[0]?.getAttribute('href')).toBe(
      '/images/l1/compare?from=checkpoint:l1:k0&to=checkpoint:l1:k1',
    );
  });

  it('a smaller budget says what the next build would let go; what a build stands on stays', async () => {
    const { sent, user } = show();
    expect(screen.getByText(/All of them fit/)).toBeTruthy();
    expect(screen.queryByText('Keep this budget')).toBeNull();
    budget('15');
    expect(screen.getByText(/would let 2 checkpoints go/)).toBeTruthy();
    await user.click(screen.getByText('Keep this budget'));
    await vi.waitFor(() =>
      expect(posts(sent)).toEqual([['PUT /lines/l1/checkpoint-budget', { bytes: 15e9 }]]),
    );
  });

  it('a budget that is refused says why beside it', async () => {
    const { user } = show(
      {},
      { 'PUT /lines/l1/checkpoint-budget': refusal({ bytes: 'must be at least 1 GB' }) },
    );
    budget('0.5');
    await user.click(screen.getByText('Keep this budget'));
    expect((await screen.findByRole('alert')).textContent).toBe('must be at least 1 GB');
  });

  it('without any, what makes them is said', () => {
    show({ checkpoints: [] });
    expect(screen.getByText('No checkpoints yet: every finished step of a build leaves one.')).toBeTruthy();
  });
});

describe('versions of a package', () => {
  const own = (text: string, bytes: number, neededBy: string[] = []) =>
    ({ id: `p${text}`, version: text, containers: [{ bytes }], neededBy }) as unknown as PackageVersion;
  const row = (change: Partial<PackageSummary> = {}): PackageSummary =>
    ({
      id: 'reader',
      versions: [own('9.2', 30e6), own('9.1', 20e6, ['desk-staff']), own('9.0', 10e6)],
      sideBySide: false,
      keepVersions: 1,
      ...change,
    }) as PackageSummary;
  const show = (change: Partial<PackageSummary> = {}, more: Answers = {}) =>
    shown(<KeepVersions row={row(change)} />, {
      'PATCH /packages/reader': { done: true },
      'POST /packages/reader/deletions': { jobId: 'j1' },
      ...more,
    });

  it('each say whether they stay and why, and what going frees', async () => {
    const { sent, user } = show();
    expect(rowsOfTable()).toEqual([
      ['9.2', 'stays', 'the newest', '30 MB'],
      ['9.1', 'stays', 'desk-staff', '20 MB'],
      ['9.0', 'goes', 'nothing needs it', '10 MB'],
    ]);
    await user.click(screen.getByRole('button', { name: 'Delete 1 version, freeing 10 MB' }));
    await vi.waitFor(() => expect(posts(sent).at(-1)?.[1]).toEqual({ versionIds: ['p9.0'] }));
    expect(posts(sent)[0]).toEqual(['PATCH /packages/reader', { keepVersions: 1 }]);
  });

  it('none goes when the number to keep was not kept', async () => {
    const { sent, user } = show({}, { 'PATCH /packages/reader': refusal({ '': 'The disk is full' }, 503) });
    await user.click(screen.getByRole('button', { name: /^Delete/ }));
    expect((await screen.findByRole('alert')).textContent).toBe('The disk is full');
    expect(posts(sent)).toHaveLength(1);
  });

  it('may run side by side, which says what people get', async () => {
    const { sent, user } = show();
    expect(screen.getByText(/people get the newest/)).toBeTruthy();
    await user.click(screen.getByRole('checkbox'));
    await vi.waitFor(() => expect(posts(sent)).toEqual([['PATCH /packages/reader', { sideBySide: true }]]));
    cleanup();
    show({ sideBySide: true });
    expect(screen.getByText(/gets every version that is attached/)).toBeTruthy();
  });
});
