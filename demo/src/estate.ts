/** The outside world of Wrenfield County Libraries, an invented organisation, when the demo begins. */
import { parseInstant, type Instant } from '@vatline/core/time/instant';
import { applications, installerOf } from './applications.ts';
import { root } from './root.ts';
import { planGroups, planPeople, type PlannedGroup, type PlannedPerson } from './people.ts';
import type { InstallerPlan } from './payload.ts';

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
    /** Money for a gigabyte and month. */
    readonly price: number;
    /** Of one read. */
    readonly latencyMs: number;
    readonly rights: Readonly<Record<'hosts' | 'packagers' | 'users', 'write' | 'read' | 'nothing'>>;
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

/** An organisational unit under the hosts. */
export const unit = (name: string) => ({ dn: `OU=${name},OU=Hosts,${root}`, name });
const datastores = (scale: number) => [
  { name: 'fast', capacityBytes: 12e12 * scale, operations: 60_000 },
  { name: 'standard', capacityBytes: 30e12 * scale, operations: 18_000 },
  { name: 'archive', capacityBytes: 80e12 * scale, operations: 2_500 },
];

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
      {
        name: 'containers',
        capacityBytes: 20e12,
        operations: 2_000,
        price: 0.05,
        latencyMs: 3.2,
        rights: { hosts: 'read', packagers: 'write', users: 'nothing' },
      },
      // Somebody let people browse it, and nobody took that back.
      {
        name: 'containers-fast',
        capacityBytes: 4e12,
        operations: 60_000,
        price: 0.16,
        latencyMs: 0.7,
        rights: { hosts: 'read', packagers: 'write', users: 'read' },
      },
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
