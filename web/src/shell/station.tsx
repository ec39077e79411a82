/** A station: its rack on the left and its bench. */
import { useState, type ReactNode } from 'react';
import { Link, useLocation } from 'react-router';
import { toggled } from './layout.ts';
import { useAppDispatch, useAppSelector } from './store.ts';

export interface RackItem {
  readonly to: string;
  readonly title: string;
  readonly sub: ReactNode;
  /** Set in the fixed-width face. */
  readonly mono?: boolean;
}

export function Station({
  items,
  action,
  children,
}: {
  items: readonly RackItem[];
  /** What makes one more of what the rack holds. */
  action?: ReactNode;
  children: ReactNode;
}) {
  const folded = useAppSelector((state) => state.layout.rackFolded);
  return (
    <div className={folded ? 'station folded' : 'station'}>
      {folded ? <FoldedRack /> : <Rack items={items} action={action} />}
      <div className="bench">{children}</div>
    </div>
  );
}

function FoldedRack() {
  const dispatch = useAppDispatch();
  return (
    <aside className="rack">
      <button
        type="button"
        className="rack-fold"
        aria-label="Unfold the rack"
        onClick={() => dispatch(toggled('rackFolded'))}
      >
        ›
      </button>
    </aside>
  );
}

/** An address with a query is open only with exactly that query. */
function isOpen(to: string, location: { pathname: string; search: string }): boolean {
  if (to.includes('?')) return to === location.pathname + location.search;
  return location.pathname === to || location.pathname.startsWith(`${to}/`);
}

function Rack({ items, action }: { items: readonly RackItem[]; action: ReactNode }) {
  const location = useLocation();
  const [filter, setFilter] = useState('');
  const shown = items.filter((item) => item.title.toLowerCase().includes(filter.toLowerCase()));
  return (
    <aside className="rack" aria-label="Rack">
      <input
        className="rack-filter"
        placeholder="/ filter"
        aria-label="Filter"
        value={filter}
        onChange={(event) => setFilter(event.target.value)}
        onKeyDown={(event) => event.key === 'Escape' && (filter ? setFilter('') : event.currentTarget.blur())}
      />
      {action && <div className="rack-action">{action}</div>}
      <ul className="rack-list">
        {shown.map((item) => (
          <li key={item.to}>
            <Link
              to={item.to}
              className="rack-item"
              aria-current={isOpen(item.to, location) ? 'page' : undefined}
            >
              <span className={item.mono ? 'rack-title mono' : 'rack-title'}>{item.title}</span>
              <span className="rack-sub">
                {typeof item.sub === 'string' ? <span className="clip">{item.sub}</span> : item.sub}
              </span>
            </Link>
          </li>
        ))}
        {shown.length === 0 && items.length > 0 && (
          <li className="rack-none quiet">Nothing holds “{filter}”.</li>
        )}
      </ul>
    </aside>
  );
}
