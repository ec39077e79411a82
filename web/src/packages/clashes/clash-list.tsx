/** What clashes between packages, and what to do about each. */
import type { Clash } from '@vatline/contract/package';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import { Finding } from '../../parts/finding.tsx';

interface Props {
  readonly clashes: readonly Clash[];
  /** Where given, each clash says which of them have all its packages attached. */
  readonly pools?: readonly PoolSummary[];
}

export function ClashList({ clashes, pools }: Props) {
  return clashes.map((clash) => (
    <Finding key={`${clash.kind} ${clash.what}`} tone="attention" title={titleOf(clash)}>
      {clash.advice}
      {pools && ` ${whereTogether(clash, pools)}`}
      <span className="remedy mono">
        {clash.kind}: {clash.what}
      </span>
    </Finding>
  ));
}

function titleOf({ kind, packages, what }: Clash): string {
  const [first, ...others] = packages.map((one) => `${one.name} ${one.version}`);
  if (kind === 'dependency') return `${first ?? 'A package'} lacks ${what}`;
  return `${[first, ...others].join(' and ')} clash`;
}

function whereTogether(clash: Clash, pools: readonly PoolSummary[]): string {
  const holding = pools.filter(({ blend }) =>
    clash.packages.every(({ id }) => blend?.packages.some((attached) => attached.id === id)),
  );
  if (holding.length > 0) return `Attached together on ${holding.map((pool) => pool.name).join(', ')}.`;
  return 'No pool has them together.';
}
