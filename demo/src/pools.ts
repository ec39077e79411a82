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
  ['Tomewick Catalogue', '7.2'],
  ['Tillbeck Cash', '5.1'],
];

/** Each package once, however many of its versions are attached. */
const namesOf = (packages: PlannedPool['packages']) => [...new Set(packages.map(([name]) => name))];

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
