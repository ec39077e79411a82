/** The pools of the library, what runs on them, what is being rolled out, and who gets what. */
import type { CloneKind } from '@vatline/core/pool/clone-storage';
import { unit } from './estate.ts';

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
  readonly network: string;
  /** Name of a machine size; empty for what stands in a chassis. */
  readonly size: string;
  readonly processors: number;
  readonly signOut: 'keep' | 'return to clean';
  readonly joinAccount: string | null;
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
  ['Tomewick Catalogue', '7.2'],
  ['Tillbeck Cash', '5.1'],
];

/** Each package once, however many of its versions are attached. */
const namesOf = (packages: PlannedPool['packages']) => [...new Set(packages.map(([name]) => name))];

interface Described extends Pick<
  PlannedPool,
  | 'name'
  | 'clone'
  | 'line'
  | 'version'
  | 'pattern'
  | 'hosts'
  | 'site'
  | 'network'
  | 'size'
  | 'sessionLimit'
  | 'packages'
> {
  readonly unitName: string;
  readonly processors: number;
  readonly joinAccount?: string;
  readonly kind?: PlannedPool['kind'];
  readonly signOut?: PlannedPool['signOut'];
}

function pool({ unitName, kind = 'pooled', signOut = 'keep', joinAccount, ...of }: Described): PlannedPool {
  return {
    ...of,
    kind,
    signOut,
    joinAccount: joinAccount ?? null,
    previousVersion: of.version - 1,
    unit: unit(unitName).dn,
    datastore: of.site === 'rack-7' ? 'stream' : 'standard',
  };
}

export const pools: readonly PlannedPool[] = [
  pool({
    name: 'pilot-bench',
    clone: 'linked',
    line: 'staff',
    version: 15,
    pattern: 'WCL-PB-##',
    hosts: 6,
    unitName: 'Pilot',
    site: 'yard-b',
    network: 'desks',
    size: 'shared-4',
    processors: 4,
    sessionLimit: 12,
    joinAccount: 'join-desks',
    packages: [...desk, ['Hesperling Labels', '6.2']],
  }),
  pool({
    name: 'desk-staff',
    clone: 'full',
    line: 'staff',
    version: 14,
    pattern: 'WCL-DS-###',
    hosts: 24,
    unitName: 'Desks',
    site: 'yard-a',
    network: 'desks',
    size: 'shared-8',
    processors: 8,
    sessionLimit: 12,
    joinAccount: 'join-desks',
    packages: desk,
  }),
  pool({
    name: 'contact-centre',
    clone: 'linked',
    line: 'staff',
    version: 13,
    pattern: 'WCL-CC-###',
    hosts: 40,
    unitName: 'Contact centre',
    site: 'yard-a',
    network: 'voice',
    size: 'shared-6',
    processors: 6,
    sessionLimit: 10,
    joinAccount: 'join-desks',
    packages: [...everyday, ['Vexley Voice', '5.0'], ['Quaybolt Terminal', '8.6']],
  }),
  pool({
    name: 'reading-rooms',
    clone: 'linked',
    signOut: 'return to clean',
    line: 'reader',
    version: 11,
    pattern: 'WCL-RR-###',
    hosts: 60,
    unitName: 'Reading rooms',
    site: 'yard-b',
    network: 'reading',
    size: 'desk-4',
    processors: 4,
    sessionLimit: 1,
    joinAccount: 'join-reading',
    packages: everyday,
  }),
  pool({
    name: 'digitisation',
    clone: 'network',
    line: 'reader',
    version: 11,
    pattern: 'WCL-DG-##',
    hosts: 16,
    unitName: 'Digitisation',
    site: 'rack-7',
    network: 'scanning',
    size: '',
    processors: 8,
    sessionLimit: 1,
    packages: [...everyday, ['Umberley Scan', '1.4']],
  }),
  pool({
    name: 'map-lab',
    kind: 'dedicated',
    clone: 'full',
    line: 'maps',
    version: 5,
    pattern: 'WCL-ML-##',
    hosts: 8,
    unitName: 'Maps',
    site: 'yard-b',
    network: 'maps',
    size: 'maps-10',
    processors: 10,
    sessionLimit: 1,
    packages: [
      ['Cartolune', '12'],
      ['Wexcombe Atlas', '2.0'],
      ['Pellam Reader', '9.0'],
    ],
  }),
];

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
  { group: 'Branch staff', pool: 'desk-staff', packages: namesOf(desk) },
  { group: 'Office', pool: 'desk-staff', packages: namesOf(everyday) },
  {
    group: 'Contact-centre agents',
    pool: 'contact-centre',
    packages: ['Pellam Reader', 'Zinnet Browser', 'Vexley Voice', 'Quaybolt Terminal'],
  },
  { group: 'Reading-room accounts', pool: 'reading-rooms', packages: namesOf(everyday) },
  { group: 'Records and maps', pool: 'digitisation', packages: ['Pellam Reader', 'Umberley Scan'] },
  { group: 'Map curators', pool: 'map-lab', packages: ['Cartolune', 'Wexcombe Atlas', 'Pellam Reader'] },
  { group: 'Pilot group', pool: 'pilot-bench', packages: namesOf(desk) },
];
