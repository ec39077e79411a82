/** The image lines of the library: their recipes, month by month, and the versions cut from them. */
import { leanHardware, type Hardware } from '@vatline/core/image/hardware';
import type { Step } from '@vatline/core/image/recipe';
import { licenceByDirectory } from '@vatline/core/image/new-step';
import { applications } from './applications.ts';
import { firstRun, withQuietStart } from './fragments.ts';
import { root } from './root.ts';
import { mediaDigest, TOOLS_VERSION } from './sources.ts';

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
  /** Oldest first; the recipe as it stands is that of the newest. */
  readonly versions: readonly PlannedVersion[];
}

interface Ingredients {
  readonly system: string;
  readonly edition: string;
  readonly release: string;
  readonly agent: string;
  readonly applications: readonly (readonly [string, string])[];
  readonly script: string;
  /** Whether each application is looked for after it was installed. */
  readonly looksAfterwards?: boolean;
}

function recipe(of: Ingredients): Step[] {
  const publisher = (name: string) => applications.find((a) => a.name === name)?.publisher ?? name;
  const steps: Step[] = [
    {
      id: 'system',
      kind: 'operating system',
      system: of.system,
      edition: of.edition,
      mediaDigest: mediaDigest(of.system),
    },
    {
      id: 'tools',
      kind: 'guest tools',
      version: TOOLS_VERSION,
      drivers: ['para-virtual network', 'para-virtual disk'],
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
      ...(of.looksAfterwards ? { success: { kind: 'version', name, atLeast: version } } : {}),
    })),
    { id: 'licence', kind: 'registry setting', ...licenceByDirectory },
    { id: 'first-run', kind: 'script', title: 'First-run pages off', text: of.script },
    { id: 'settle', kind: 'wait for settle', limitMinutes: 10 },
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

const disk = (sizeBytes: number) => ({ ...leanHardware.disks[0], sizeBytes }) as Hardware['disks'][number];

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
      looksAfterwards: true,
    }),
  }));
}

/** From some version on, what lines share comes from a fragment. */
function sharing(revision: number, steps: Step[]): Step[] {
  return revision === 0 ? steps : withQuietStart(steps, revision);
}

function readerVersions(): PlannedVersion[] {
  return history(2, 12, (number, back) => ({
    daysAgo: 4 + back * 28,
    state: number === 12 ? 'draft' : 'approved',
    note: number === 12 ? 'kiosk pages to be looked at' : '',
    steps: sharing(
      number >= 11 ? 1 : 0,
      recipe({
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
    ),
  }));
}

function mapVersions(): PlannedVersion[] {
  return history(1, 5, (number, back) => ({
    daysAgo: 13 + back * 56,
    state: 'approved',
    note: '',
    steps: sharing(
      number >= 5 ? 2 : 0,
      recipe({
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
    ),
  }));
}

export function planLines(): PlannedLine[] {
  const staff = staffVersions();
  const reader = readerVersions();
  const maps = mapVersions();
  return [
    {
      key: 'staff',
      name: 'Staff multi-session',
      purpose: 'branch desks and offices',
      dyeOffset: 10,
      site: 'yard-a',
      hardware: { ...leanHardware, processors: 8, memoryBytes: 32e9, disks: [disk(128e9)] },
      versions: staff,
    },
    {
      key: 'reader',
      name: 'Reader desktop',
      purpose: 'public reading rooms',
      dyeOffset: 4,
      site: 'yard-a',
      hardware: leanHardware,
      versions: reader,
    },
    {
      key: 'maps',
      name: 'Map workstation',
      purpose: 'map archive, with graphics',
      dyeOffset: 3,
      site: 'yard-a',
      hardware: {
        ...leanHardware,
        processors: 8,
        memoryBytes: 64e9,
        disks: [disk(128e9), disk(128e9)],
        graphics: 'shared card',
      },
      versions: maps,
    },
  ];
}
