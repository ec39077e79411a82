/** What the library's packagers have found to be noise besides the usual, revision by revision. */
import type { NoiseRule } from '@vatline/core/package/noise';

const links: NoiseRule = {
  id: 'links to publishers',
  action: 'drop',
  kinds: ['file'],
  glob: 'Users/*/Desktop/*.url',
  reason: 'advertising that nobody asked for',
};

export const houseRules: readonly {
  readonly daysAgo: number;
  readonly note: string;
  readonly rules: readonly NoiseRule[];
}[] = [
  { daysAgo: 210, note: 'first', rules: [links] },
  {
    daysAgo: 64,
    note: 'help desks need the logs of drivers',
    rules: [
      {
        id: 'driver logs',
        action: 'keep',
        expression: '^System/Drivers/[^/]+\\.log$',
        reason: 'asked for by the help desk',
      },
      links,
    ],
  },
];
