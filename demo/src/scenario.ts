/** Wrenfield County Libraries: an invented organisation, its estate and the state of its work. */
import type { CloneKind } from '@vatline/core/pool/clone-storage';
import type { Hardware, Step } from '@vatline/core/image/recipe';
import type { Entry } from '@vatline/core/image/inventory';
import { parseInstant, type Instant } from '@vatline/core/time/instant';
import { hash32 } from '@vatline/core/random';
import { planGroups, planPeople, type PlannedGroup, type PlannedPerson } from './people.ts';
import { programFolder, type InstallerPlan } from './payload.ts';

export interface EstatePlan {
  readonly seed: string;
  readonly zone: string;
  readonly root: string;
  readonly start: Instant;
  /** Speed of the clock at first. */
  readonly rate: number;
  readonly sites: readonly {
    readonly name: string;
    readonly cores: number;
    readonly datastores: readonly {
      readonly name: string;
      readonly capacityBytes: number;
      readonly operations: number;
    }[];
  }[];
  readonly shares: readonly {
    readonly name: string;
    readonly capacityBytes: number;
    readonly operations: number;
  }[];
  readonly units: readonly { readonly dn: string; readonly name: string }[];
  readonly people: readonly PlannedPerson[];
  readonly groups: readonly PlannedGroup[];
  readonly curves: readonly { readonly pool: string; readonly expected: readonly number[] }[];
  readonly installers: readonly InstallerPlan[];
  readonly traits: Readonly<
    Record<string, { service?: string; driver?: string; task?: string; needsRestart?: boolean }>
  >;
}

const root = 'DC=wrenfield,DC=example';
const unit = (name: string) => ({ dn: `OU=${name},OU=Hosts,${root}`, name });
const datastores = (scale: number) => [
  { name: 'fast', capacityBytes: 12e12 * scale, operations: 60_000 },
  { name: 'standard', capacityBytes: 30e12 * scale, operations: 18_000 },
  { name: 'archive', capacityBytes: 80e12 * scale, operations: 2_500 },
];

interface PlannedApplication {
  readonly name: string;
  readonly publisher: string;
  /** Versions that are packaged, oldest first; the last may be in the library only. */
  readonly versions: readonly string[];
  readonly waiting?: string;
  readonly delivery: 'container' | 'in the image' | 'not packaged';
  readonly note: string;
  readonly files: number;
  readonly bytes: number;
  readonly updater?: boolean;
  readonly service?: string;
}

const MB = 1_000_000;

export const applications: readonly PlannedApplication[] = [
  app('Brackenote Office', 'Brackenote', ['24.2'], 'in the image', 'nearly everybody uses it', 260, 6 * MB),
  app(
    'Tomewick Catalogue',
    'Tomewick',
    ['7.2', '7.3'],
    'container',
    'two versions side by side',
    180,
    3 * MB,
  ),
  app('Cartolune', 'Cartolune Maps', ['12'], 'container', 'needs graphics', 420, 9 * MB),
  app('Pellam Reader', 'Pellam', ['9.0'], 'container', '', 90, 2 * MB),
  {
    ...app('Zinnet Browser', 'Zinnet', ['139.0'], 'container', 'brings an updater', 460, 5 * MB),
    waiting: '141.0',
    updater: true,
    service: 'ZinnetUpdate',
  },
  app('Dockray Scan', 'Dockray', ['3.4'], 'in the image', 'has a kernel driver', 40, MB),
  {
    ...app('Tillbeck Cash', 'Tillbeck', ['5.1'], 'container', 'has a service', 70, 2 * MB),
    service: 'TillbeckCash',
  },
  app('Quaybolt Terminal', 'Quaybolt', ['8.6'], 'container', '', 60, MB),
  app('Knapsel Archiver', 'Knapsel', ['2.9'], 'container', '', 25, MB),
  {
    ...app('Vexley Voice', 'Vexley', ['5.0'], 'container', 'must be there at sign-in', 80, 2 * MB),
    service: 'VexleyVoice',
  },
  app('Corvane Stats', 'Corvane', ['11.2'], 'container', 'needs Quaybolt Runtime', 150, 3 * MB),
  app('Quaybolt Runtime', 'Quaybolt', ['5.2'], 'container', 'others depend on it', 110, 2 * MB),
  app('Ostrand Forms', 'Ostrand', [], 'not packaged', 'installs for one user only', 30, MB),
  app('Hesperling Labels', 'Hesperling', ['6.2'], 'container', 'writes a file of Pellam Reader', 45, MB),
  app('Lanrick Ledger', 'Lanrick', ['4.0'], 'container', '', 85, 2 * MB),
  app('Oddenby Post', 'Oddenby', ['3.3'], 'container', '', 55, MB),
  app('Skerrowby Notes', 'Skerrowby', ['1.8'], 'container', '', 35, MB),
  app('Fennimark Draw', 'Fennimark', ['6.0'], 'container', '', 130, 3 * MB),
  app('Halvane Print', 'Halvane', ['2.2'], 'in the image', 'has a kernel driver', 30, MB),
  app('Mossgill Vault', 'Mossgill', ['9.1'], 'container', '', 40, MB),
  app('Brindlecote Rota', 'Brindlecote', ['7.7'], 'container', '', 65, MB),
  app('Umberley Scan', 'Umberley', ['1.4'], 'container', '', 30, MB),
  app('Wexcombe Atlas', 'Wexcombe', ['2.0'], 'container', '', 140, 4 * MB),
  app('Snaithby Timer', 'Snaithby', [], 'not packaged', '', 20, MB),
  app('Glenmorrow Chat', 'Glenmorrow', ['3.1'], 'container', '', 70, 2 * MB),
  app('Tarrowby Clock', 'Tarrowby', ['1.1'], 'container', '', 15, MB / 2),
  app('Pennisk Viewer', 'Pennisk', ['4.4'], 'container', '', 50, MB),
  app('Drumlock Keys', 'Drumlock', ['2.5'], 'in the image', 'needed before sign-in', 20, MB),
  app('Kettlebeck Player', 'Kettlebeck', ['8.0'], 'container', '', 60, 2 * MB),
  app('Yarnspell Check', 'Yarnspell', ['5.5'], 'container', '', 30, MB),
];

function app(
  name: string,
  publisher: string,
  versions: string[],
  delivery: PlannedApplication['delivery'],
  note: string,
  files: number,
  bytes: number,
): PlannedApplication {
  return { name, publisher, versions, delivery, note, files, bytes };
}

/** The installer of one version of an application. */
export function installerOf(application: PlannedApplication, version: string): InstallerPlan {
  const { name, publisher, files, bytes } = application;
  const program = name.split(' ')[0]?.toLowerCase() ?? 'program';
  const path = `${programFolder(name)}/${program}.exe`;
  const settings: Entry[] = [
    {
      kind: 'registry',
      key: `Machine\\Software\\${publisher}\\${name}`,
      name: 'Version',
      type: 'REG_SZ',
      value: version,
    },
    {
      kind: 'registry',
      key: `Machine\\Software\\${publisher}\\${name}`,
      name: 'Folder',
      type: 'REG_SZ',
      value: programFolder(name),
    },
    { kind: 'shortcut', path: `Users/All/Desktop/${name}`, target: path },
  ];
  if (application.service)
    settings.push({
      kind: 'service',
      name: application.service,
      start: 'automatic',
      image: application.updater ? `${programFolder(name)}/updater/${program}-update.exe` : path,
    });
  if (application.updater)
    settings.push({
      kind: 'task',
      name: `${publisher} nightly check`,
      run: `${programFolder(name)}/updater/${program}-update.exe`,
      schedule: 'daily 03:10',
    });
  return {
    id: `${program}-${version}`,
    name,
    publisher,
    version,
    files,
    bytes,
    entryPoints: [{ name, path }],
    settings,
    updater: application.updater ?? false,
  };
}

const curve = (peak: number, shares: string) =>
  shares.split(' ').map((n) => Math.round((Number(n) / 100) * peak));

/** The estate as it is when the demo begins: Monday 22 March 2027, 08:00 in Dublin. */
export function estatePlan(): EstatePlan {
  const people = planPeople('wrenfield', 1_900);
  return {
    seed: 'wrenfield',
    zone: 'Europe/Dublin',
    root,
    start: parseInstant('2027-03-22T08:00:00Z') ?? 0,
    rate: 60,
    sites: [
      { name: 'yard-a', cores: 640, datastores: datastores(1) },
      { name: 'yard-b', cores: 384, datastores: datastores(0.6) },
      {
        name: 'rack-7',
        cores: 144,
        datastores: [{ name: 'stream', capacityBytes: 4e12, operations: 20_000 }],
      },
    ],
    shares: [
      { name: 'containers', capacityBytes: 20e12, operations: 1_000 },
      { name: 'containers-fast', capacityBytes: 4e12, operations: 10_000 },
    ],
    units: [
      { dn: `OU=Hosts,${root}`, name: 'Hosts' },
      ...['Build', 'Reading rooms', 'Desks', 'Contact centre', 'Maps', 'Digitisation', 'Pilot'].map(unit),
    ],
    people,
    groups: planGroups(people),
    curves: [
      {
        pool: 'reading-rooms',
        expected: curve(52, '0 0 0 0 0 0 0 2 30 62 78 86 80 84 92 100 96 88 70 40 4 0 0 0'),
      },
      {
        pool: 'desk-staff',
        expected: curve(236, '1 1 1 1 1 1 4 34 82 96 100 97 80 88 98 95 84 60 22 6 3 2 1 1'),
      },
      // Two shift changes, at 06:00 and at 14:00, when both shifts are signed in.
      {
        pool: 'contact-centre',
        expected: curve(352, '52 48 46 46 50 62 96 90 88 92 94 95 92 94 100 93 88 84 78 74 70 66 60 56'),
      },
      {
        pool: 'map-lab',
        expected: curve(7, '0 0 0 0 0 0 0 10 60 90 100 100 70 90 100 100 80 50 10 0 0 0 0 0'),
      },
      {
        pool: 'digitisation',
        expected: curve(14, '0 0 0 0 0 0 0 20 80 100 100 100 80 100 100 100 80 40 0 0 0 0 0 0'),
      },
      {
        pool: 'pilot-bench',
        expected: curve(34, '1 1 1 1 1 1 4 30 80 96 100 97 80 88 98 95 84 60 22 6 3 2 1 1'),
      },
    ],
    installers: applications.flatMap((a) =>
      [...a.versions, ...(a.waiting ? [a.waiting] : [])].map((v) => installerOf(a, v)),
    ),
    traits: {
      'Brackenote Office': { needsRestart: true },
      'Dockray Scan': { driver: 'Dockray filter' },
      'Halvane Print': { driver: 'Halvane port' },
      'Drumlock Keys': { service: 'DrumlockKeys' },
      'Zinnet Browser': { service: 'ZinnetUpdate', task: 'Zinnet nightly check' },
    },
  };
}

export interface PlannedVersion {
  readonly number: number;
  readonly state: 'draft' | 'in test' | 'approved' | 'retired';
  readonly note: string;
  /** Days before the demo begins. */
  readonly daysAgo: number;
  readonly steps: readonly Step[];
}

export interface PlannedLine {
  readonly key: string;
  readonly name: string;
  readonly purpose: string;
  readonly dyeOffset: number;
  readonly site: string;
  readonly hardware: Hardware;
  readonly versions: readonly PlannedVersion[];
  /** The recipe as it stands now; may be ahead of the newest version. */
  readonly recipe: readonly Step[];
}

const media = (system: string) => {
  let digest = '';
  for (let i = 0; i < 8; i++) digest += hash32(`${system} media ${i}`).toString(16).padStart(8, '0');
  return digest;
};

interface Ingredients {
  readonly system: string;
  readonly edition: string;
  readonly release: string;
  readonly agent: string;
  readonly applications: readonly (readonly [string, string])[];
  readonly script: string;
}

function recipe(of: Ingredients): Step[] {
  const publisher = (name: string) => applications.find((a) => a.name === name)?.publisher ?? name;
  const steps: Step[] = [
    {
      id: 'system',
      kind: 'operating system',
      system: of.system,
      edition: of.edition,
      mediaDigest: media(of.system),
    },
    { id: 'updates', kind: 'updates', release: of.release },
    { id: 'restart-1', kind: 'restart' },
    { id: 'join', kind: 'join directory', ou: `OU=Build,OU=Hosts,${root}` },
    { id: 'agent', kind: 'host agent', version: of.agent },
    ...of.applications.map(([name, version]): Step => ({
      id: name.toLowerCase().replaceAll(' ', '-'),
      kind: 'application',
      name,
      publisher: publisher(name),
      version,
      command: `setup-${name.split(' ')[0]?.toLowerCase() ?? 'app'}.exe /quiet /norestart`,
      exitCodes: [0, 3010],
    })),
    { id: 'first-run', kind: 'script', title: 'First-run pages off', text: of.script },
    { id: 'restart-2', kind: 'restart' },
  ];
  return steps;
}

/** The release of `back` months before March 2027. */
function releaseBack(back: number): string {
  return new Date(Date.UTC(2027, 2 - back, 1)).toISOString().slice(0, 7);
}

function history(
  from: number,
  to: number,
  make: (number: number, back: number) => Omit<PlannedVersion, 'number'>,
): PlannedVersion[] {
  return Array.from({ length: to - from + 1 }, (_, i) => ({
    number: from + i,
    ...make(from + i, to - from - i),
  }));
}

const firstRun = 'set FirstRun=off\nset WelcomePage=off';

function staffVersions(): PlannedVersion[] {
  return history(2, 15, (number, back) => ({
    daysAgo: number === 15 ? 2 : 2 + back * 28,
    state: number === 15 ? 'in test' : number === 12 ? 'retired' : 'approved',
    note: number === 12 ? 'sign-in took over 40 s' : number === 15 ? 'soaks on pilot-bench' : '',
    steps: recipe({
      system: 'Desktop OS 24.2',
      edition: 'multi-session',
      release: releaseBack(back),
      agent: number >= 10 ? '4.8' : '4.7',
      applications: [
        ['Brackenote Office', number >= 8 ? '24.2' : '24.1'],
        ['Dockray Scan', '3.4'],
        ...(number >= 13 ? ([['Halvane Print', '2.2']] as const) : []),
        ['Drumlock Keys', number >= 14 ? '2.5' : '2.4'],
      ],
      script: firstRun,
    }),
  }));
}

function readerVersions(): PlannedVersion[] {
  return history(2, 12, (number, back) => ({
    daysAgo: 4 + back * 28,
    state: number === 12 ? 'draft' : 'approved',
    note: number === 12 ? 'kiosk pages to be looked at' : '',
    steps: recipe({
      system: 'Desktop OS 24.2',
      edition: 'single session',
      release: releaseBack(back),
      agent: '4.8',
      applications: [
        ['Drumlock Keys', number >= 9 ? '2.5' : '2.4'],
        ...(number >= 12 ? ([['Pennisk Viewer', '4.4']] as const) : []),
      ],
      script: firstRun,
    }),
  }));
}

function mapVersions(): PlannedVersion[] {
  return history(1, 5, (number, back) => ({
    daysAgo: 13 + back * 56,
    state: 'approved',
    note: '',
    steps: recipe({
      system: 'Desktop OS 24.1',
      edition: 'workstation',
      release: releaseBack(back * 2),
      agent: '4.8',
      applications: [
        ['Brackenote Office', '24.2'],
        ['Dockray Scan', number >= 3 ? '3.4' : '3.3'],
      ],
      script: firstRun,
    }),
  }));
}

export function planLines(): PlannedLine[] {
  const staff = staffVersions();
  const reader = readerVersions();
  const maps = mapVersions();
  const newest = (list: readonly PlannedVersion[]) => list.at(-1)?.steps ?? [];
  return [
    {
      key: 'staff',
      name: 'Staff multi-session',
      purpose: 'branch desks and offices',
      dyeOffset: 10,
      site: 'yard-a',
      hardware: { processors: 8, memoryBytes: 32e9, diskBytes: 128e9, firmware: 'uefi', graphics: false },
      versions: staff,
      recipe: newest(staff),
    },
    {
      key: 'reader',
      name: 'Reader desktop',
      purpose: 'public reading rooms',
      dyeOffset: 4,
      site: 'yard-a',
      hardware: { processors: 2, memoryBytes: 8e9, diskBytes: 64e9, firmware: 'uefi', graphics: false },
      versions: reader,
      recipe: newest(reader),
    },
    {
      key: 'maps',
      name: 'Map workstation',
      purpose: 'map archive, with graphics',
      dyeOffset: 3,
      site: 'yard-a',
      hardware: { processors: 8, memoryBytes: 64e9, diskBytes: 256e9, firmware: 'uefi', graphics: true },
      versions: maps,
      recipe: newest(maps),
    },
  ];
}

export interface PlannedPool {
  readonly name: string;
  readonly kind: 'pooled' | 'dedicated';
  readonly clone: CloneKind | 'network';
  readonly line: string;
  readonly version: number;
  readonly previousVersion: number;
  readonly pattern: string;
  readonly hosts: number;
  readonly unit: string;
  readonly site: string;
  readonly datastore: string;
  readonly processors: number;
  readonly sessionLimit: number;
  /** Packages attached, as name and version. */
  readonly packages: readonly (readonly [string, string])[];
}

const everyday: readonly (readonly [string, string])[] = [
  ['Pellam Reader', '9.0'],
  ['Zinnet Browser', '139.0'],
  ['Knapsel Archiver', '2.9'],
];
const desk: readonly (readonly [string, string])[] = [
  ...everyday,
  ['Tomewick Catalogue', '7.3'],
  ['Tillbeck Cash', '5.1'],
];

export const pools: readonly PlannedPool[] = [
  pool('pilot-bench', 'linked', 'staff', 15, 14, 'WCL-PB-##', 6, 'Pilot', 'yard-b', 4, 12, [
    ...desk,
    ['Hesperling Labels', '6.2'],
  ]),
  pool('desk-staff', 'full', 'staff', 14, 13, 'WCL-DS-###', 24, 'Desks', 'yard-a', 8, 12, desk),
  pool('contact-centre', 'linked', 'staff', 13, 12, 'WCL-CC-###', 40, 'Contact centre', 'yard-a', 6, 10, [
    ...everyday,
    ['Vexley Voice', '5.0'],
    ['Quaybolt Terminal', '8.6'],
  ]),
  pool(
    'reading-rooms',
    'linked',
    'reader',
    11,
    10,
    'WCL-RR-###',
    60,
    'Reading rooms',
    'yard-b',
    4,
    1,
    everyday,
  ),
  pool('digitisation', 'network', 'reader', 11, 10, 'WCL-DG-##', 16, 'Digitisation', 'rack-7', 8, 1, [
    ...everyday,
    ['Umberley Scan', '1.4'],
  ]),
  {
    ...pool('map-lab', 'full', 'maps', 5, 4, 'WCL-ML-##', 8, 'Maps', 'yard-b', 10, 1, [
      ['Cartolune', '12'],
      ['Wexcombe Atlas', '2.0'],
      ['Pellam Reader', '9.0'],
    ]),
    kind: 'dedicated' as const,
  },
];

function pool(
  name: string,
  clone: PlannedPool['clone'],
  line: string,
  version: number,
  previousVersion: number,
  pattern: string,
  hosts: number,
  unitName: string,
  site: string,
  processors: number,
  sessionLimit: number,
  packages: PlannedPool['packages'],
): PlannedPool {
  const datastore = site === 'rack-7' ? 'stream' : 'standard';
  return {
    name,
    kind: 'pooled',
    clone,
    line,
    version,
    previousVersion,
    pattern,
    hosts,
    unit: unit(unitName).dn,
    site,
    datastore,
    processors,
    sessionLimit,
    packages,
  };
}

/** Rollouts under way when the demo begins. Instants are local to the demo's zone. */
export const plannedRollouts = [
  {
    pool: 'contact-centre',
    toVersion: 14,
    startedAt: '2027-03-18T16:20:00Z',
    done: 18,
    workedFrom: '2027-03-19T01:00:00Z',
    window: { rule: 'FREQ=WEEKLY;BYDAY=TU,FR', start: '01:00', end: '05:00' },
    batch: 3,
    maxUnavailable: 3,
    drainLimitMinutes: 25,
    reserve: 0.1,
  },
  {
    pool: 'desk-staff',
    toVersion: 15,
    startedAt: '2027-03-22T07:40:00Z',
    done: 0,
    workedFrom: '',
    window: { rule: 'FREQ=WEEKLY;BYDAY=SU', start: '01:00', end: '05:00' },
    batch: 8,
    maxUnavailable: 8,
    drainLimitMinutes: 30,
    reserve: null,
  },
] as const;

/** Who gets what: group, pool, and the packages assigned on it. */
export const assignments: readonly { group: string; pool: string; packages: readonly string[] }[] = [
  { group: 'Branch staff', pool: 'desk-staff', packages: desk.map(([name]) => name) },
  { group: 'Office', pool: 'desk-staff', packages: everyday.map(([name]) => name) },
  {
    group: 'Contact-centre agents',
    pool: 'contact-centre',
    packages: ['Pellam Reader', 'Zinnet Browser', 'Vexley Voice', 'Quaybolt Terminal'],
  },
  { group: 'Reading-room accounts', pool: 'reading-rooms', packages: everyday.map(([name]) => name) },
  { group: 'Records and maps', pool: 'digitisation', packages: ['Pellam Reader', 'Umberley Scan'] },
  { group: 'Map curators', pool: 'map-lab', packages: ['Cartolune', 'Wexcombe Atlas', 'Pellam Reader'] },
  { group: 'Pilot group', pool: 'pilot-bench', packages: desk.map(([name]) => name) },
];
