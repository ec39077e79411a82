/** What there is to see and do of one pool. */
import { NavLink } from 'react-router';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';

const tabs = [
  ['', 'Hosts'],
  ['readiness', 'Spares and power'],
  ['more', 'More hosts'],
  ['settings', 'Settings'],
] as const;

export function PoolTabs({ pool }: { pool: Pick<PoolDetail, 'id' | 'hosts'> }) {
  return (
    <nav className="tabs" aria-label="Of this pool">
      {tabs.map(([path, label]) => (
        <NavLink key={path} to={path === '' ? `/pools/${pool.id}` : `/pools/${pool.id}/${path}`} end>
          {label}
        </NavLink>
      ))}
    </nav>
  );
}
