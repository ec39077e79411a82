/** The order of work as its first steps, while no host runs anything yet. */
import type { Home } from '@vatline/contract/home';

export interface FirstStep {
  readonly station: string;
  readonly what: string;
  readonly action: string;
  readonly to: string;
  readonly state: 'done' | 'next' | 'at any time' | 'later';
  /** What it waits for; empty when nothing stands in its way. */
  readonly lacks: string;
}

export function firstSteps({ lanes }: Pick<Home, 'lanes'>): FirstStep[] {
  const [first] = lanes;
  const versions = lanes.flatMap((lane) => lane.versions);
  const hasPool = lanes.some((lane) => lane.pools.length > 0);
  const chain: Omit<FirstStep, 'state'>[] = [
    {
      station: 'Images',
      what: 'Describe a build machine and, step by step, what goes onto it.',
      action: 'Begin an image line',
      to: '/images/new',
      lacks: '',
    },
    {
      station: 'Images',
      what: 'Build it, check it, and cut a first version.',
      action: 'Build and cut',
      to: first ? `/images/${first.lineId}` : '/images',
      lacks: first ? '' : 'an image line',
    },
    {
      station: 'Pools',
      what: 'See how many hosts fit, and make them from a version.',
      action: 'Make a pool',
      to: '/pools/new',
      lacks: versions.length > 0 ? '' : 'a version',
    },
    {
      station: 'Access',
      what: 'Say who gets a desktop there, and see it as they do.',
      action: 'Assign people',
      to: '/access',
      lacks: hasPool ? '' : 'a pool',
    },
    {
      station: 'Rollouts',
      what: 'Plan the nights on which the next version comes, with a forecast.',
      action: 'Plan a rollout',
      to: '/rollouts/new',
      lacks: hasPool ? '' : 'a pool',
    },
  ];
  const done = [lanes.length > 0, versions.length > 0, hasPool, false, false];
  const next = done.indexOf(false);
  const steps = chain.map((step, i): FirstStep => ({
    ...step,
    state: done[i] ? 'done' : i === next ? 'next' : 'later',
  }));
  const packages: FirstStep = {
    station: 'Packages',
    what: 'Package applications that change more often than the image.',
    action: 'Capture a package',
    to: '/packages/new',
    state: 'at any time',
    lacks: '',
  };
  return [...steps.slice(0, 2), packages, ...steps.slice(2)];
}
