/** What Ctrl+K finds: every page, every object, and what can be done with each. */
import type { LineSummary } from '@vatline/contract/image';
import type { PackageSummary } from '@vatline/contract/package';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { Rollout } from '@vatline/contract/rollout';
import { sidings } from './sidings.ts';
import { stations } from './stations.ts';

/** `kind` says what it is: a page, an object of some kind, or something to do. */
export interface Findable {
  readonly label: string;
  readonly kind: string;
}

/** What stands at an address. */
export interface FoundPlace extends Findable {
  readonly to: string;
}

export interface Findables {
  readonly lines: readonly LineSummary[];
  readonly packages: readonly PackageSummary[];
  readonly pools: readonly PoolSummary[];
  readonly rollouts: readonly Rollout[];
}

/** Pages first, then objects, then what can be done, so that a bare name finds the object. */
export function places({ lines, packages, pools, rollouts }: Findables): FoundPlace[] {
  const open = rollouts.filter((rollout) => rollout.endedAt === null);
  return [
    ...pages(),
    ...lines.map((line) => ({ label: line.name, kind: 'image line', to: `/images/${line.id}` })),
    ...pools.map((pool) => ({ label: pool.name, kind: 'pool', to: `/pools/${pool.id}` })),
    ...open.map((rollout) => ({
      label: `${rollout.pool} to ${rollout.to.imageNumber}`,
      kind: 'rollout',
      to: `/rollouts/${rollout.id}`,
    })),
    ...packages.map((row) => ({ label: row.name, kind: 'package', to: `/packages/${row.id}` })),
    ...beginnings,
    ...lines.flatMap(deedsOfLine),
    ...pools.flatMap(deedsOfPool),
    ...open.map((rollout) => ({
      label: `Stop the rollout of ${rollout.pool}, or go back`,
      kind: 'do',
      to: `/rollouts/${rollout.id}`,
    })),
    ...packages.flatMap(deedsOfPackage),
  ];
}

function pages(): FoundPlace[] {
  return [
    { label: 'Home', kind: 'page', to: '/' },
    ...stations.flatMap(({ path, name }) => [
      { label: name, kind: 'station', to: `/${path}` },
      ...(sidings[path] ?? [])
        .filter((siding) => siding.path !== '')
        .map((siding) => ({ label: siding.name, kind: 'page', to: `/${path}/${siding.path}` })),
    ]),
  ];
}

const beginnings: readonly FoundPlace[] = [
  { label: 'Begin an image line', kind: 'do', to: '/images/new' },
  { label: 'Capture a package', kind: 'do', to: '/packages/new' },
  { label: 'First desktops', kind: 'do', to: '/first-desktops' },
  { label: 'Make a pool', kind: 'do', to: '/pools/new' },
  { label: 'Plan a rollout', kind: 'do', to: '/rollouts/new' },
  { label: 'See as a person', kind: 'do', to: '/access' },
];

function deedsOfLine({ id, name, versions }: LineSummary): FoundPlace[] {
  const next = (versions[0]?.number ?? 0) + 1;
  return [
    { label: `Build ${name}`, kind: 'do', to: `/images/${id}` },
    { label: `Cut version ${next} of ${name}`, kind: 'do', to: `/images/${id}` },
    { label: `Change ${name} by hand`, kind: 'do', to: `/images/${id}/hand` },
    { label: `Cut ${name} by a schedule`, kind: 'do', to: `/images/${id}/schedule` },
    ...(versions.length > 0
      ? [{ label: `Approve or retire a version of ${name}`, kind: 'do', to: `/images/${id}/versions` }]
      : []),
    ...(versions.length > 1
      ? [{ label: `Compare versions of ${name}`, kind: 'do', to: `/images/${id}/compare` }]
      : []),
  ];
}

function deedsOfPool({ id, name }: PoolSummary): FoundPlace[] {
  return [
    { label: `Roll out to ${name}`, kind: 'do', to: `/rollouts/new?pool=${id}` },
    { label: `Assign people to ${name}`, kind: 'do', to: `/access?pool=${id}` },
  ];
}

function deedsOfPackage({ id, name, waiting, versions }: PackageSummary): FoundPlace[] {
  const to = `/packages/${id}`;
  const toOffer = versions.find((version) => version.state === 'verified');
  return [
    ...(waiting ? [{ label: `Capture ${name} ${waiting}`, kind: 'do', to }] : []),
    ...(toOffer ? [{ label: `Offer ${name} ${toOffer.version} to hosts`, kind: 'do', to }] : []),
    ...(versions.length > 1
      ? [{ label: `Compare versions of ${name}`, kind: 'do', to: `${to}/compare` }]
      : []),
  ];
}

/**
 * The first `atMost` rows that hold every word of a text somewhere in their label or kind; those
 * whose label begins with the text come before the others.
 */
export function matching<T extends Findable>(rows: readonly T[], text: string, atMost: number): T[] {
  const wanted = text.trim().toLowerCase();
  const words = wanted.split(/\s+/);
  const found = rows.filter(({ label, kind }) => {
    const hay = `${label} ${kind}`.toLowerCase();
    return words.every((word) => hay.includes(word));
  });
  const begins = (row: T) => wanted !== '' && row.label.toLowerCase().startsWith(wanted);
  return [...found.filter(begins), ...found.filter((row) => !begins(row))].slice(0, atMost);
}
