/** What clashes between packages, and what to do about each. */
import type { Clash } from '@vatline/contract/package';
import { Finding } from '../parts/finding.tsx';

export function ClashList({ clashes }: { clashes: readonly Clash[] }) {
  return clashes.map((clash) => (
    <Finding key={`${clash.kind} ${clash.what}`} tone="attention" title={titleOf(clash)}>
      {clash.advice}
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
