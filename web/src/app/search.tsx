/** Ctrl+K: find anything or do anything. */
import './search.css';
import { Input, Modal } from 'antd';
import { useState, type KeyboardEvent } from 'react';
import { useNavigate } from 'react-router';
import type { ClockChange } from '@vatline/contract/estate';
import { estateApi } from '../api/estate.ts';
import { imagesApi } from '../api/images.ts';
import { poolsApi } from '../api/pools.ts';
import { rolloutsApi } from '../api/rollouts.ts';
import { closed, themeSwitched, toggled } from '../shell/layout.ts';
import { matching, places, type Findable } from './find.ts';
import { useAppDispatch } from '../shell/store.ts';
import { useAllPackages } from '../parts/all-packages.ts';

interface Found extends Findable {
  readonly act: () => void;
}

const SHOWN = 12;

export function Search() {
  const dispatch = useAppDispatch();
  const [text, setText] = useState('');
  const [chosen, setChosen] = useState(0);
  const close = () => void dispatch(closed('searchOpen'));
  const found = matching(useFound(text), text, SHOWN);
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
        placeholder="a line, package, pool, host, page, or what to do with it"
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

/** Fewer letters than this are in the names of too many hosts. */
const LETTERS_OF_HOST = 2;

function useFound(text: string): Found[] {
  const navigate = useNavigate();
  const { data: lines = [] } = imagesApi.useLinesQuery({});
  const packages = useAllPackages() ?? [];
  const { data: pools = [] } = poolsApi.usePoolsQuery({});
  const { data: rollouts = [] } = rolloutsApi.useRolloutsQuery({});
  const { data: hosts = [] } = poolsApi.useHostsQuery(
    { query: { q: text.trim(), limit: SHOWN } },
    { skip: text.trim().length < LETTERS_OF_HOST },
  );
  const poolOf = new Map(pools.map((pool) => [pool.name, pool.id]));
  const hostPlaces = hosts.map(({ name, pool }) => ({
    label: name,
    kind: `host of ${pool}`,
    to: `/pools/${poolOf.get(pool) ?? ''}?host=${name}`,
  }));
  const deeds = useDeeds();
  return [
    ...[...places({ lines, packages, pools, rollouts }), ...hostPlaces].map(({ to, ...row }) => ({
      ...row,
      act: () => void navigate(to),
    })),
    ...deeds,
  ];
}

/** What is done at once, wherever one is. */
function useDeeds(): Found[] {
  const dispatch = useAppDispatch();
  const [setClock] = estateApi.useSetClockMutation({ fixedCacheKey: 'clock' });
  const clock = (label: string, body: ClockChange) => ({
    label,
    kind: 'do',
    act: () => void setClock({ body }),
  });
  return [
    clock('Pause the clock', { action: 'rate', rate: 0 }),
    clock('Run the clock as time passes', { action: 'rate', rate: 1 }),
    clock('Run the clock at 60×', { action: 'rate', rate: 60 }),
    clock('Run the clock at 600×', { action: 'rate', rate: 600 }),
    clock('Go to the next event', { action: 'next event' }),
    clock('Go to the end of this window', { action: 'end of window' }),
    clock('Stop sending the clock ahead', { action: 'stop' }),
    { label: 'Open the journal', kind: 'do', act: () => void dispatch(toggled('journalOpen')) },
    { label: 'Fold the rack', kind: 'do', act: () => void dispatch(toggled('rackFolded')) },
    { label: 'Fold the tape', kind: 'do', act: () => void dispatch(toggled('tapeFolded')) },
    { label: 'Show all keys', kind: 'do', act: () => void dispatch(toggled('keysOpen')) },
    { label: 'Switch between light and dark', kind: 'do', act: () => void dispatch(themeSwitched()) },
  ];
}
