import { Link, useLocation } from 'react-router';
import { sidingsAt } from './sidings.ts';

/** A station's further pages, right under the line; nothing at stations that have only one. */
export function SidingRow() {
  const { station, pages, open } = sidingsAt(useLocation().pathname);
  if (pages.length === 0) return null;
  return (
    <nav className="sidings" aria-label="Pages of this station">
      {pages.map(({ path, name }) => (
        <Link
          key={path}
          to={path === '' ? `/${station}` : `/${station}/${path}`}
          aria-current={path === open ? 'page' : undefined}
        >
          {name}
        </Link>
      ))}
    </nav>
  );
}
