/** The frame: the line above, the bench in the middle, the tape below. */
import './frame.css';
import '../shell/bench.css';
import { Suspense, lazy } from 'react';
import { Link, NavLink, Outlet } from 'react-router';
import { homeApi } from '../api/home.ts';
import { useKeys } from './keys.ts';
import { toggled } from '../shell/layout.ts';
import { useLive } from './live.ts';
import { SidingRow } from './siding-row.tsx';
import { stations } from './stations.ts';
import { useAppDispatch, useAppSelector } from '../shell/store.ts';
import { TroubleBar } from './trouble-bar.tsx';
import { Tape } from '../parts/tape.tsx';
import { plural } from '../parts/format.ts';

const Search = lazy(async () => ({ default: (await import('./search.tsx')).Search }));
const KeysHelp = lazy(async () => ({ default: (await import('./keys-help.tsx')).KeysHelp }));

export function Frame() {
  useLive();
  useKeys();
  const { searchOpen, keysOpen } = useAppSelector((state) => state.layout);
  return (
    <div className="frame">
      <div>
        <Line />
        <SidingRow />
        <TroubleBar />
      </div>
      <main style={{ minHeight: 0 }}>
        <Outlet />
      </main>
      <Tape />
      <Suspense>
        {searchOpen && <Search />}
        {keysOpen && <KeysHelp />}
      </Suspense>
    </div>
  );
}

function Line() {
  const dispatch = useAppDispatch();
  const { data: waitingAt = {} } = homeApi.useWaitingQuery({});
  return (
    <header className="line">
      <Link to="/" className="mark">
        <img src="/mark.svg" alt="" />
        Vat Line
      </Link>
      <nav className="stations" aria-label="Stations">
        {stations.map((station, i) => {
          const waiting = waitingAt[station.path] ?? 0;
          return (
            <NavLink
              key={station.path}
              to={`/${station.path}`}
              className={waiting > 0 ? 'station-link waits' : 'station-link'}
            >
              {station.name}
              <kbd aria-hidden>{i + 1}</kbd>
              {waiting > 0 && (
                <span className="station-count" aria-label={`${plural(waiting, 'thing')} waiting`}>
                  {waiting}
                </span>
              )}
            </NavLink>
          );
        })}
      </nav>
      <button type="button" className="find" onClick={() => dispatch(toggled('searchOpen'))}>
        Find or do <kbd>Ctrl K</kbd>
      </button>
    </header>
  );
}
