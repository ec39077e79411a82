/** Who may use what: giving it, taking it away, and why a person does or does not see it. */
import { cleanup, fireEvent, screen, within } from '@testing-library/react';
import { Route, Routes, useNavigate } from 'react-router';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { Assignment, SeeAs } from '@vatline/contract/access';
import { AccessPage } from '../../src/access/access-page.tsx';
import { refusal, shown, type Answers } from './shown.tsx';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const pools = [
  {
    id: 'p1',
    name: 'desk-staff',
    blend: { packages: [{ id: 'v1', name: 'Zinnet Browser', version: '139' }] },
  },
];
const assignment = (id: string, target: Assignment['target']): Assignment => ({
  id,
  group: 'Branch staff',
  poolId: 'p1',
  pool: 'desk-staff',
  target,
  users: 1_404,
});
const given = [
  assignment('a1', { kind: 'desktop', id: 'p1', name: 'desk-staff' }),
  assignment('a2', { kind: 'package', id: 'package-zinnet', name: 'Zinnet Browser' }),
];
const summary = (id: string, name: string) => ({
  id,
  name,
  versions: [{ id: `${id}-1` }],
  sideBySide: false,
});
const answers = (more: Answers = {}): Answers => ({
  'GET /pools': pools,
  'GET /assignments': given,
  'GET /estate/groups': [{ name: 'Branch staff', users: 1_404, groups: [] }],
  'GET /estate/users': {
    rows: [{ account: 'orla.finch', name: 'Orla Finch', branch: 'Tarnside', role: 'librarian' }],
    total: 31,
    next: 'x',
  },
  'GET /packages': {
    rows: [summary('package-zinnet', 'Zinnet Browser'), summary('package-pellam', 'Pellam Reader')],
    total: 2,
    next: null,
  },
  ...more,
});

async function choose(label: string, option: string) {
  fireEvent.mouseDown(await screen.findByRole('combobox', { name: label }));
  const options = await screen.findAllByText(option);
  const last = options.at(-1);
  if (last) fireEvent.click(last);
}
const form = () => within(screen.getByRole('complementary', { name: 'Assign a group' }));

describe('the list', () => {
  it('says of each what is given to whom, a desktop apart from packages', async () => {
    shown(<AccessPage />, answers());
    await screen.findByText('Zinnet Browser');
    const rows = screen.getAllByRole('row').slice(1);
    expect(rows.map((row) => row.textContent)).toEqual([
      'desk-staffthe desktopBranch staff1,404take away',
      'desk-staffZinnet BrowserBranch staff1,404take away',
    ]);
  });

  it('takes away what its button stands beside', async () => {
    const { sent, user } = shown(<AccessPage />, answers({ 'DELETE /assignments/a2': { done: true } }));
    await user.click(
      await screen.findByRole('button', { name: 'take away Zinnet Browser of desk-staff from Branch staff' }),
    );
    expect(sent.map((one) => one.call)).toContain('DELETE /assignments/a2');
  });

  it('says so when another has taken it away before', async () => {
    const gone = refusal({ '': 'There is no such assignment' }, 404);
    const { user } = shown(<AccessPage />, answers({ 'DELETE /assignments/a1': gone }));
    await user.click(
      await screen.findByRole('button', { name: 'take away the desktop of desk-staff from Branch staff' }),
    );
    expect((await screen.findByRole('alert')).textContent).toContain('no such assignment');
  });
});

describe('assigning', () => {
  const assign = async (to: string, more: Answers) => {
    const view = shown(<AccessPage />, answers(more));
    await choose('Group', 'Branch staff, 1404 people');
    await choose('Pool', 'desk-staff');
    if (to !== 'the desktop') await choose('To', to);
    await view.user.click(form().getByRole('button', { name: 'Assign' }));
    return view.sent.find((one) => one.call === 'POST /assignments');
  };

  it.each([
    ['the desktop', { kind: 'desktop' }],
    ['Zinnet Browser', { kind: 'package', id: 'package-zinnet' }],
    ['Pellam Reader (not attached there)', { kind: 'package', id: 'package-pellam' }],
  ])('%s is sent by what it is', async (to, target) => {
    const sent = await assign(to, { 'POST /assignments': given[0] });
    expect(sent?.body).toEqual({ group: 'Branch staff', poolId: 'p1', target });
  });

  it('that is refused says so at the field that is meant', async () => {
    const faults = refusal({ group: 'is assigned to this already', 'target.id': 'There is no such package' });
    await assign('Zinnet Browser', { 'POST /assignments': faults });
    const alerts = (await form().findAllByRole('alert')).map((one) => one.textContent);
    expect(alerts).toEqual(['is assigned to this already', 'There is no such package']);
  });
});

const seen: SeeAs = {
  user: { account: 'orla.finch', name: 'Orla Finch', branch: 'Tarnside', role: 'librarian' },
  groups: ['Tarnside branch', 'Branch staff'],
  cycles: [['Branch staff', 'All staff', 'Branch staff']],
  grants: [
    {
      kind: 'desktop',
      poolId: 'p1',
      pool: 'desk-staff',
      id: 'p1',
      name: 'desk-staff',
      given: true,
      chain: [{ holds: true, text: 'orla.finch is in Branch staff' }],
      entryPoints: [],
    },
    {
      kind: 'app',
      poolId: 'p1',
      pool: 'desk-staff',
      id: 'package-zinnet',
      name: 'Zinnet Browser',
      given: true,
      chain: [{ holds: true, text: 'Zinnet Browser 139 is live' }],
      entryPoints: [
        { id: 'e1', name: 'Zinnet' },
        { id: 'e2', name: 'Zinnet, private' },
      ],
    },
    {
      kind: 'app',
      poolId: 'p1',
      pool: 'desk-staff',
      id: 'package-pellam',
      name: 'Pellam Reader',
      given: false,
      chain: [{ holds: false, text: 'no group is assigned to Pellam Reader on desk-staff' }],
      entryPoints: [],
    },
  ],
};

describe('seeing as a person', () => {
  function Go() {
    const navigate = useNavigate();
    return <button onClick={() => void navigate('/access?user=orla.finch')}>go</button>;
  }

  it('says what they get, under which names, and where the rest breaks', async () => {
    const { user } = shown(
      <>
        <Go />
        <Routes>
          <Route path="*" element={<AccessPage />} />
        </Routes>
      </>,
      answers({ 'GET /see-as': seen }),
    );
    await user.click(screen.getByText('go'));
    expect(await screen.findByText('Orla Finch gets 1 desktop and 1 app.')).toBeTruthy();
    const zinnet = within(screen.getByRole('region', { name: 'Zinnet Browser' }));
    expect(zinnet.getByText(', opens as Zinnet, Zinnet, private')).toBeTruthy();
    const pellam = screen.getByRole('region', { name: 'Pellam Reader' });
    expect(pellam.querySelector('.breaks')?.textContent).toBe(
      'no group is assigned to Pellam Reader on desk-staff',
    );
    expect(screen.getByText(/hold one another: Branch staff in All staff in Branch staff/)).toBeTruthy();
  });

  it('says how many more people there are than those it lists', async () => {
    shown(<AccessPage />, answers());
    fireEvent.mouseDown(await screen.findByRole('combobox', { name: 'See as' }));
    expect(await screen.findByText('30 more people; scroll or type on')).toBeTruthy();
    expect(screen.getByText('Orla Finch, librarian, Tarnside')).toBeTruthy();
  });
});
