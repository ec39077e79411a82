/** The station of pools: how they are, what is done to hosts, who takes how much, who may join where. */
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { JoinAccount, Unit } from '@vatline/contract/directory';
import type { Datastore } from '@vatline/contract/pool/datastore';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import type { PoolHealth } from '@vatline/contract/pool/health';
import type { EffectShown } from '@vatline/contract/pool/host-action';
import { DirectoryPage } from '../../src/pools/directory/directory-page.tsx';
import { HealthPage } from '../../src/pools/health-page.tsx';
import { ActionBar } from '../../src/pools/hosts/action-bar.tsx';
import { effectInWords } from '../../src/pools/hosts/effect-in-words.ts';
import { DatastoresPage } from '../../src/pools/storage/datastores-page.tsx';
import { HostDisks } from '../../src/pools/storage/host-disks.tsx';
import { refusal, rowsOfTable, shown } from './shown.tsx';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const heading = async () => (await screen.findByRole('heading', { level: 1 })).textContent;

describe('how the pools are', () => {
  const pool = (name: string, change: Partial<PoolHealth> = {}): PoolHealth => ({
    id: name,
    name,
    hosts: 10,
    inService: 10,
    sessions: 40,
    seats: 100,
    expected: Array.from({ length: 24 }, () => 50),
    had: Array.from({ length: 24 }, (_, hour) => (hour === 9 ? 62 : null)),
    startUp: { p50Minutes: 1, p90Minutes: 1.3, measured: 0 },
    busiest: { hour: 10, expected: 50 },
    failures: [0, 0, 0, 0, 0, 0, 0],
    findings: [],
    ...change,
  });
  const desks = pool('desk-staff', {
    failures: [0, 0, 0, 0, 1, 0, 2],
    startUp: { p50Minutes: 1.6, p90Minutes: 2.4, measured: 12 },
    findings: [
      { what: 'seats', tone: 'trouble', count: 6, hour: 15 },
      { what: 'failed', tone: 'trouble', count: 1, hour: null },
      { what: 'held', tone: 'calm', count: 3, hour: null },
    ],
  });

  it('says first what is worst, and leads to where each thing is mended', async () => {
    shown(<HealthPage />, { 'GET /pool-health': [desks, pool('map-lab')] });
    expect(await heading()).toBe('desk-staff: 6 seats too few at 15:00.');
    const to = (text: string) => screen.getByText(text).getAttribute('href');
    expect([to('1 host failed'), to('3 held back')]).toEqual([
      '/pools/desk-staff?state=failed',
      '/pools/desk-staff?state=held',
    ]);
    expect(rowsOfTable().map((row) => [row[0], row[2], row[3], row[6], row[7]])).toEqual([
      ['desk-staff', '10 of 10', '40 %', '2.4 min', '3, 2 of them in the last day'],
      ['map-lab', '10 of 10', '40 %', '1.3 min', 'none'],
    ]);
    expect(screen.getByText('1.3 min').title).toMatch(/assumed/);
    expect(screen.getByText('2.4 min').title).toBe(
      'half of 12 starts within 1.6 min, nine of ten within 2.4 min',
    );
  });

  it('holds what each hour had against what was expected of it', async () => {
    shown(<HealthPage />, { 'GET /pool-health': [pool('map-lab')] });
    await heading();
    expect(screen.getByTitle('09:00: 50 expected, 62 had')).toBeTruthy();
    expect(screen.getByTitle('10:00: 50 expected, not measured yet')).toBeTruthy();
  });

  it.each([
    [[pool('a'), pool('b')], 'All 2 pools have seats for the next hours.'],
    [[], 'There is no pool yet.'],
    [
      [desks, { ...desks, id: 'b', name: 'b' }, { ...desks, id: 'c', name: 'c' }],
      'desk-staff: 6 seats too few at 15:00; 2 other pools need somebody too.',
    ],
  ])('%#: %s', async (pools, sentence) => {
    shown(<HealthPage />, { 'GET /pool-health': pools });
    expect(await heading()).toBe(sentence);
  });
});

const effect = (change: Partial<EffectShown> = {}): EffectShown => ({
  hosts: ['A', 'B'],
  passedOver: [],
  sessionsEnded: 0,
  dataLostBytes: 0,
  seatsLost: 0,
  seatsNow: 100,
  expectedNext: 70,
  ...change,
});

describe('what an action does, in words', () => {
  it.each([
    [
      'restart',
      effect({ sessionsEnded: 1 }),
      '2 hosts start anew, ten at a time. 1 person is signed out at once.',
      false,
    ],
    [
      'power off',
      effect({ sessionsEnded: 16, seatsLost: 40 }),
      '2 hosts are switched off, ten at a time, and cost no machine hours. 16 people are signed out at once. 60 seats are left, and 70 sessions expected within the hour.',
      true,
    ],
    [
      'let in',
      effect({ seatsLost: -20 }),
      'People may come to 2 hosts again. 120 seats are left, and 70 sessions expected within the hour.',
      false,
    ],
    [
      'remove',
      effect({ dataLostBytes: 500e9, seatsLost: 2 }),
      '2 hosts and all that was made for them are taken away for good. 500 GB of personal data are gone for good. 98 seats are left, and 70 sessions expected within the hour.',
      false,
    ],
    ['message', effect({ hosts: [] }), 'Nothing would happen.', false],
  ] as const)('%s', (action, given, said, isShort) =>
    expect(effectInWords(action, given)).toMatchObject({ said, isShort }),
  );

  it('names the first that are passed over, and counts the others', () => {
    const passedOver = ['A', 'B', 'C', 'D', 'E'].map((name) => ({ name, why: 'is off' }));
    expect(effectInWords('restart', effect({ passedOver })).passedOver).toBe(
      'Passed over: A is off; B is off; C is off; and 2 others.',
    );
  });
});

describe('acting on hosts', () => {
  const pool = { id: 'p1', name: 'desk-staff' } as PoolDetail;
  const bar = (answers: Record<string, unknown>) => {
    const done = vi.fn();
    const view = shown(<ActionBar pool={pool} names={['A', 'B']} done={done} />, answers);
    return { ...view, done };
  };

  it('says what will happen before the button that does it', async () => {
    const { user, sent, done } = bar({
      'POST /pools/p1/actions/preview': effect({ sessionsEnded: 5 }),
      'POST /pools/p1/actions': { jobId: 'j1', hosts: ['A', 'B'] },
    });
    await user.click(screen.getByRole('button', { name: 'Restart' }));
    await screen.findByText(/5 people are signed out at once/);
    expect(sent.some((one) => one.call === 'POST /pools/p1/actions')).toBe(false);
    await user.click(screen.getByRole('button', { name: 'Restart 2 hosts' }));
    await vi.waitFor(() => expect(done).toHaveBeenCalled());
    const body = sent.find((one) => one.call === 'POST /pools/p1/actions')?.body;
    expect(body).toMatchObject({ action: 'restart', hosts: ['A', 'B'] });
  });

  it('asks whether personal data may be lost, and says at that field when it was not said', async () => {
    const { user } = bar({
      'POST /pools/p1/actions/preview': effect({ dataLostBytes: 250e9 }),
      'POST /pools/p1/actions': refusal({ losesData: 'say that the personal data on them may be lost' }),
    });
    await user.click(screen.getByRole('button', { name: 'Remove' }));
    await user.click(await screen.findByRole('button', { name: 'Remove 2 hosts' }));
    expect((await screen.findByRole('alert')).textContent).toBe(
      'say that the personal data on them may be lost',
    );
  });

  it('does nothing where no host is left', async () => {
    const passedOver = [{ name: 'A', why: 'is on' }];
    const { user } = bar({ 'POST /pools/p1/actions/preview': effect({ hosts: [], passedOver }) });
    await user.click(screen.getByRole('button', { name: 'Power on' }));
    await screen.findByText('Passed over: A is on.');
    expect(screen.getByRole('button', { name: 'Power on 0 hosts' })).toHaveProperty('disabled', true);
  });
});

describe('datastores', () => {
  const store = (name: string, change: Partial<Datastore> = {}): Datastore => ({
    site: 'yard-a',
    name,
    capacityBytes: 10e12,
    usedBytes: 1e12,
    promisedBytes: 2e12,
    overcommit: 1,
    operations: { total: 1_000, used: 12 },
    price: 0.05,
    uses: [
      { kind: 'pool', name: 'desk-staff', bytes: 0.9e12, disks: 48 },
      { kind: 'parent', name: 'Reader 11', bytes: 0.1e12, disks: 1 },
    ],
    growingHosts: 0,
    ...change,
  });
  const growth = { medianBytesPerDay: 2e8, p90BytesPerDay: 4e8 };
  const show = (...datastores: Datastore[]) =>
    shown(<DatastoresPage />, {
      'GET /datastores': { datastores, growth },
      'GET /pools': [{ id: 'p1', name: 'desk-staff', hosts: 24, blend: null }],
    });

  it('say how full they are, what was promised, and who takes how much', async () => {
    show(store('standard'), store('fast', { usedBytes: 5e12, promisedBytes: 6e12 }));
    expect(await heading()).toBe(
      'No datastore promised more than it may; the fullest is fast of yard-a, with 50 % used.',
    );
    expect(rowsOfTable()[0]).toEqual([
      'yard-a standard',
      '1.0 TB',
      '2.0 TB',
      '10 TB',
      '20 % of 100 %',
      '12 of 1,000',
      '50.00',
    ]);
    const uses = within(screen.getByRole('complementary', { name: 'Who takes how much' }));
    expect(uses.getByText('Who takes how much of yard-a fast')).toBeTruthy();
    expect(uses.getByText('desk-staff').getAttribute('href')).toBe('/pools/p1');
    expect(uses.getByText('parent Reader 11')).toBeTruthy();
    expect(screen.getByText('No host on it grows from day to day.', { exact: false })).toBeTruthy();
  });

  it.each([
    [
      { promisedBytes: 12e12, overcommit: 1.5 },
      'No datastore promised more',
      'That is allowed here up to 1.5 times',
    ],
    [
      { promisedBytes: 12e12 },
      '1 datastore promised more than allowed',
      'which is more than 1 times what is there allows',
    ],
  ])('over-committed by %j', async (change, first, then) => {
    show(store('standard', change));
    expect(await heading()).toContain(first);
    expect(screen.getByText(then, { exact: false })).toBeTruthy();
  });

  it('of a host are drawn one upon the other, the parent lowest, the others beside', async () => {
    const disk = (role: string, bytes: number, name: string, standOn = 0) => ({
      role,
      site: 'yard-b',
      datastore: 'standard',
      bytes,
      name,
      standOn,
    });
    shown(<HostDisks name="A" />, {
      'GET /hosts/A/disks': [
        disk('parent', 17e9, 'parent: Reader 11', 60),
        disk('child', 0.6e9, 'child'),
        disk('running', 0.1e9, 'running'),
        disk('swap', 2e9, 'swap file'),
      ],
    });
    expect(await screen.findByText('2.7 GB of its own, in 3 disks that stand on one another.')).toBeTruthy();
    expect(screen.getAllByRole('listitem').map((item) => item.firstChild?.textContent)).toEqual([
      'running',
      'child',
      'parent: Reader 11',
      'swap file',
    ]);
    expect(screen.getByText('60 hosts stand on it', { exact: false })).toBeTruthy();
  });
});

describe('the directory', () => {
  const both = (account: string, givenOn: string) =>
    (['create computers', 'delete computers'] as const).map((right) => ({ account, right, givenOn }));
  const unit = (dn: string, name: string, change: Partial<Unit> = {}): Unit => ({
    dn,
    name,
    parent: null,
    computers: 0,
    computersBelow: 0,
    rights: [],
    ...change,
  });
  const units = [
    unit('OU=Hosts', 'Hosts', { computersBelow: 32 }),
    unit('OU=Desks,OU=Hosts', 'Desks', {
      parent: 'OU=Hosts',
      computers: 24,
      rights: both('join-desks', 'OU=Hosts'),
    }),
    unit('OU=Maps,OU=Hosts', 'Maps', { parent: 'OU=Hosts', computers: 8 }),
  ];
  const account = (name: string, change: Partial<JoinAccount> = {}): JoinAccount => ({
    name,
    unit: 'OU=Hosts',
    isLocked: false,
    isKnown: true,
    pools: [],
    ...change,
  });
  const show = (answers: Record<string, unknown> = {}, at = '/') =>
    shown(
      <DirectoryPage />,
      {
        'GET /pools': [],
        'GET /directory/units': units,
        'GET /directory/accounts': [account('join-desks'), account('join-old', { isKnown: false })],
        ...answers,
      },
      at,
    );

  it('says which units have no account just for joining', async () => {
    show();
    await vi.waitFor(async () =>
      expect(await heading()).toBe('1 of 2 units with computers has no account just for joining.'),
    );
    expect(rowsOfTable().slice(0, 3)).toEqual([
      ['Hosts', '0', '32', 'only Vat Line’s own account'],
      ['Desks', '24', '0', 'join-desks'],
      ['Maps', '8', '0', 'only Vat Line’s own account'],
    ]);
  });

  it('gives an account a right in one unit; one from above is taken above', async () => {
    const right = { 'PUT /directory/rights': { done: true } };
    const { user, sent } = show(right, '/?unit=OU%3DDesks%2COU%3DHosts');
    const box = await screen.findByRole('checkbox', { name: 'join-desks may create computers' });
    expect([box.getAttribute('disabled'), screen.getAllByText('from above').length]).toEqual(['', 2]);
    await user.click(screen.getByRole('checkbox', { name: 'join-old may delete computers' }));
    await vi.waitFor(() =>
      expect(sent.find((one) => one.call === 'PUT /directory/rights')?.body).toEqual({
        unit: 'OU=Desks,OU=Hosts',
        account: 'join-old',
        right: 'delete computers',
        isGiven: true,
      }),
    );
  });

  it('says at its field why an account or a unit was not made, and keeps what was typed', async () => {
    const { user } = show(
      {
        'POST /directory/accounts': refusal(
          { name: 'there is an account join-desks in OU=Hosts already' },
          409,
        ),
      },
      '/?unit=OU%3DMaps%2COU%3DHosts',
    );
    await user.type(await screen.findByPlaceholderText('such as join-records'), 'join-desks');
    await user.click(screen.getByRole('button', { name: 'Make the account' }));
    expect((await screen.findByRole('alert')).textContent).toBe(
      'there is an account join-desks in OU=Hosts already',
    );
    expect(screen.getByDisplayValue('join-desks')).toBeTruthy();
  });

  it('takes the password of an account, and says when the directory knows another', async () => {
    const wrong = refusal({ password: 'the password of join-old is not the one that the directory knows' });
    const { user } = show({ 'PUT /directory/accounts/join-old/password': wrong });
    await user.click(await screen.findByRole('button', { name: 'Tell its password' }));
    await user.type(screen.getByLabelText('Password of join-old'), 'guess');
    await user.click(screen.getByRole('button', { name: 'Keep it' }));
    expect((await screen.findByRole('alert')).textContent).toContain(
      'is not the one that the directory knows',
    );
  });
});
