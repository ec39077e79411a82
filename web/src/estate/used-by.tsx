/** Which pools use a thing of the estate, with their hosts on it. */
import { Link } from 'react-router';
import type { CapacityUse } from '@vatline/contract/capacity';
import { plural } from '../parts/format.ts';

interface Props {
  readonly uses: readonly CapacityUse[];
  readonly what: CapacityUse['what'];
  readonly name: string;
  /** Left out where it is on no site. */
  readonly site?: string;
}

export function UsedBy({ uses, what, name, site = '' }: Props) {
  const here = uses.filter((use) => use.what === what && use.name === name && use.site === site);
  if (here.length === 0) return <span className="quiet">used by nobody</span>;
  return (
    <>
      {here.map((use, i) => (
        <span key={use.poolId}>
          {i > 0 && ', '}
          <Link to={`/pools/${use.poolId}`}>{use.pool}</Link>{' '}
          <span className="quiet">{plural(use.hosts, 'host')}</span>
        </span>
      ))}
    </>
  );
}
