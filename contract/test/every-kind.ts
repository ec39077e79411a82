/** A step of every kind, each with all its fields; steps of a kind together make a recipe that can be built. */
import type { Step } from '@vatline/core/image/recipe';
import { filledSheet } from '@vatline/core/option-sheet/filled-sheet';
import type { OptionSuite } from '@vatline/core/option-sheet/suite';

const digest = 'ab'.repeat(32);
const application = { publisher: 'Marlstone', version: '1.4' };

/** The suite of which a step is installed, and its sheet “Desks”. */
export const officeSuite: OptionSuite = {
  name: 'Marlstone Office',
  ...application,
  options: [
    { id: 'edition', label: 'Edition', kind: 'choice', choices: ['Small', 'Full'], default: 'Small' },
  ],
  rules: [],
  templates: [{ name: 'command', form: 'plain', text: 'setup.exe /quiet /edition {{edition}}' }],
};
export const desksSheet = { edition: 'Full' };

export const everyKind: readonly Step[] = [
  {
    id: 'system',
    kind: 'operating system',
    label: 'The system',
    section: 'Base',
    system: 'Desktop OS 24.2',
    edition: 'multi-session',
    language: 'en-IE',
    mediaDigest: digest,
    note: 'media of June',
  },
  {
    id: 'updates',
    kind: 'updates',
    section: 'Base',
    feed: 'county',
    release: '2027-03',
    categories: ['security', 'quality'],
    restart: 'when asked',
    retries: 2,
  },
  { id: 'tools', kind: 'guest tools', version: '12.1', drivers: ['para-virtual disk'], restart: 'always' },
  { id: 'irish', kind: 'language pack', language: 'ga-IE' },
  {
    id: 'ledger',
    kind: 'application',
    name: 'Marlstone Ledger',
    ...application,
    command: 'setup.exe /quiet',
    exitCodes: [0, 3010],
    success: { kind: 'version', name: 'Marlstone Ledger', atLeast: '1.4' },
  },
  { id: 'viewer', kind: 'packaged application', name: 'Marlstone Viewer', ...application, digest },
  {
    id: 'office',
    kind: 'application by option sheet',
    name: 'Marlstone Office',
    ...application,
    sheet: 'Desks',
    digest: filledSheet(officeSuite, 'Desks', desksSheet).digest ?? '',
  },
  {
    id: 'notice',
    kind: 'file copy',
    source: 'notices/welcome.txt',
    target: 'Users/All/welcome.txt',
    digest,
    success: { kind: 'file', path: 'Users/All/welcome.txt', sha256: digest },
  },
  {
    id: 'shortcut',
    kind: 'shortcut',
    name: 'Ledger',
    target: 'Program files/Marlstone Ledger/program.exe',
    place: 'start menu',
  },
  {
    id: 'kiosk',
    kind: 'registry setting',
    key: 'Machine\\Software\\Marlstone',
    name: 'Mode',
    type: 'REG_SZ',
    value: 'kiosk',
    success: { kind: 'registry', key: 'Machine\\Software\\Marlstone', name: 'Mode', value: 'kiosk' },
  },
  {
    id: 'index',
    kind: 'service start',
    name: 'System service 2',
    start: 'disabled',
    success: { kind: 'service', name: 'System service 2', start: 'disabled' },
  },
  { id: 'tidy', kind: 'scheduled task', name: 'Tidy disk', action: 'remove', command: '', schedule: '' },
  { id: 'signing', kind: 'certificate', store: 'trusted publishers', subject: 'CN=County signing', digest },
  {
    id: 'pages',
    kind: 'script',
    title: 'Pages off',
    language: 'powershell',
    text: 'one\ntwo',
    expectedMinutes: 2,
  },
  { id: 'join', kind: 'join directory', ou: 'OU=Build,OU=Hosts,DC=wrenfield,DC=example' },
  { id: 'agent', kind: 'host agent', version: '4.8', success: { kind: 'exit code', codes: [0] } },
  { id: 'profiles', kind: 'profile agent', version: '2.0', share: 'profiles' },
  { id: 'baseline', kind: 'settings baseline', baseline: 'Desks', revision: 3 },
  { id: 'restart', kind: 'restart', alwaysRun: true },
  { id: 'settle', kind: 'wait for settle', limitMinutes: 10 },
  { id: 'clean', kind: 'clean-up', targets: ['temporary files', 'logs'], disabled: true },
  { id: 'shared', kind: 'fragment', fragment: 'Shared start', revision: 1 },
];
