/** Ctrl+K: find anything or do anything. */
import './search.css';
import { Input, Modal } from 'antd';
import { useState, type KeyboardEvent } from 'react';
import { useNavigate } from 'react-router';
import { estateApi } from '../api/estate.ts';
import { imagesApi } from '../api/images.ts';
import { packagesApi } from '../api/packages.ts';
import { poolsApi } from '../api/pools.ts';
import { rolloutsApi } from '../api/rollouts.ts';
import { closed, themeSwitched, toggled } from '../shell/layout.ts';
import { stations } from './stations.ts';
import { useAppDispatch } from '../shell/store.ts';

interface Found {
  readonly label: string;
  readonly kind: string;
  readonly act: () => void;
}

const SHOWN = 12;

export function Search() {
  const dispatch = useAppDispatch();
  const [text, setText] = useState('');
  const [chosen, setChosen] = useState(0);
  const close = () => void dispatch(closed('searchOpen'));
  const found = useFound()
    .filter((row) => matches(row, text))
    .slice(0, SHOWN);
  const run = (row: Found | undefined) => {
    if (!row) return;
    close();
    row.act();
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === 'ArrowDown') setChosen(Math.min(found.length - 1, chosen + 1));
    else if (event.key === 'ArrowUp') setChosen(Math.max(0, chosen - 1));
    else if (event.key === 'Enter') run(found[chosen]);
    else return;
    event.preventDefault();
  };
  return (
    <Modal open footer={null} closable={false} onCancel={close} title="Find anything, do anything">
      <Input
        autoFocus
        placeholder="a line, package, pool, host pool, or an action"
        aria-label="Find or do"
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setChosen(0);
        }}
        onKeyDown={onKeyDown}
      />
      <ul className="found" role="listbox" aria-label="Found">
        {found.map((row, i) => (
          <li key={`${row.kind} ${row.label}`} role="presentation">
            <button
              type="button"
              role="option"
              aria-selected={i === chosen}
              onClick={() => run(row)}
              onMouseEnter={() => setChosen(i)}
            >
              <span>{row.label}</span>
              <span>{row.kind}</span>
            </button>
          </li>
        ))}
        {found.length === 0 && <li className="quiet">Nothing holds “{text}”.</li>}
      </ul>
    </Modal>
  );
}

/** Every word must occur somewhere in the label or kind. */
function matches(row: Found, text: string): boolean {
  const hay = `${row.label} ${row.kind}`.toLowerCase();
  return text
    .toLowerCase()
    .split(/\s+/)
    .every((word) => hay.includes(word));
}

function useFound(): Found[] {
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const [setClock] = estateApi.useSetClockMutation();
  const { data: lines = [] } = imagesApi.useLinesQuery({});
  const { data: packages = [] } = packagesApi.usePackagesQuery({});
  const { data: pools = [] } = poolsApi.usePoolsQuery({});
  const { data: rollouts = [] } = rolloutsApi.useRolloutsQuery({});
  const go = (to: string) => () => void navigate(to);
  const rate = (value: 0 | 1 | 60 | 600) => () => void setClock({ body: { action: 'rate', rate: value } });
  return [
    { label: 'Home', kind: 'station', act: go('/') },
    ...stations.map((station) => ({ label: station.name, kind: 'station', act: go(`/${station.path}`) })),
    ...lines.map((line) => ({ label: line.name, kind: 'image line', act: go(`/images/${line.id}`) })),
    ...pools.map((pool) => ({ label: pool.name, kind: 'pool', act: go(`/pools/${pool.id}`) })),
    ...rollouts
      .filter((r) => r.endedAt === null)
      .map((r) => ({
        label: `${r.pool} to ${r.to.imageNumber}`,
        kind: 'rollout',
        act: go(`/rollouts/${r.id}`),
      })),
    ...packages.map((row) => ({ label: row.name, kind: 'package', act: go(`/packages/${row.id}`) })),
    { label: 'New image line', kind: 'do', act: go('/images/new') },
    { label: 'Lineage of the images', kind: 'see', act: go('/images/lineage') },
    { label: 'Fragments that lines share', kind: 'see', act: go('/images/fragments') },
    { label: 'Where is an application?', kind: 'see', act: go('/images/applications') },
    { label: 'Make a pool', kind: 'do', act: go('/pools/new') },
    { label: 'Plan a rollout', kind: 'do', act: go('/rollouts/new') },
    { label: 'Capture a package', kind: 'do', act: go('/packages/new') },
    { label: 'Clashes between packages', kind: 'do', act: go('/packages/clashes') },
    { label: 'Signing certificates', kind: 'do', act: go('/packages/certificates') },
    { label: 'See as a person', kind: 'do', act: go('/access') },
    { label: 'Pause the clock', kind: 'do', act: rate(0) },
    { label: 'Run the clock at 60×', kind: 'do', act: rate(60) },
    { label: 'Run the clock at 600×', kind: 'do', act: rate(600) },
    { label: 'Open the journal', kind: 'do', act: () => void dispatch(toggled('journalOpen')) },
    { label: 'Switch between light and dark', kind: 'do', act: () => void dispatch(themeSwitched()) },
  ];
}
