/** Steps that lines share: one fragment, of which one line has the newest revision and one is behind. */
import { licenceByDirectory } from '@vatline/core/image/new-step';
import type { Step } from '@vatline/core/image/recipe';

export interface PlannedFragmentRevision {
  readonly name: string;
  readonly steps: readonly Step[];
  readonly note: string;
  /** Days before the demo begins. */
  readonly daysAgo: number;
}

export const QUIET_START = 'Quiet first start';

export const firstRun = 'set FirstRun=off\nset WelcomePage=off';

const licence: Step = { id: 'licence', kind: 'registry setting', ...licenceByDirectory };

/** Oldest first. */
export const fragmentRevisions: readonly PlannedFragmentRevision[] = [
  {
    name: QUIET_START,
    steps: [licence, { id: 'first-run', kind: 'script', title: 'First-run pages off', text: firstRun }],
    note: '',
    daysAgo: 60,
  },
  {
    name: QUIET_START,
    steps: [
      licence,
      { id: 'first-run', kind: 'script', title: 'First-run pages off', text: firstRun },
      {
        id: 'no-tips',
        kind: 'registry setting',
        key: 'Machine\\Software\\Desktop\\Tips',
        name: 'Enabled',
        type: 'REG_DWORD',
        value: '0',
      },
    ],
    note: 'tips kept popping up in the map archive',
    daysAgo: 14,
  },
];

/** A recipe whose licence and first-run steps come from the fragment. */
export function withQuietStart(steps: readonly Step[], revision: number): Step[] {
  return steps.flatMap((step): Step[] => {
    if (step.id === 'licence') return [{ id: 'quiet', kind: 'fragment', fragment: QUIET_START, revision }];
    return step.id === 'first-run' ? [] : [step];
  });
}
