/** The outside world of Wrenfield County Libraries, an invented organisation, when the demo begins. */
import { unitRights, type RightGiven } from '@vatline/core/directory/rights';
import { parseInstant, type Instant } from '@vatline/core/time/instant';
import { applications, installerOf } from './applications.ts';
import { root } from './root.ts';
import { planGroups, planPeople, type PlannedGroup, type PlannedPerson } from './people.ts';
import type { InstallerPlan } from './payload.ts';

export interface PlannedSite {
  readonly name: string;
  readonly cores: number;
  /** Machines that its hypervisor makes, or makes anew, at the same time. */
  readonly makesAtOnce: number;
  readonly memoryBytes: number;
  readonly graphics: number;
  readonly datastores: readonly {
    readonly name: string;
    readonly capacityBytes: number;
    readonly operations: number;
    /** Money for a gigabyte and month. */
    readonly price: number;
    readonly overcommit: number;
  }[];
  readonly networks: readonly {
    readonly name: string;
    readonly range: string;
    /** Addresses that other things have. */
    readonly reserved: number;
  }[];
  readonly sizes: readonly {
    readonly name: string;
    readonly processors: number;
    readonly memoryBytes: number;
    readonly graphics: number;
    readonly pricePerHour: number;
  }[];
}

export interface PlannedChassis {
  readonly name: string;
  readonly site: string;
  /** In the order of their slots. */
  readonly machines: readonly {
    readonly serial: string;
    readonly processors: number;
    readonly memoryBytes: number;
    /** It answers from this look through the chassis on. */
    readonly answersAtLook: number;
  }[];
}

/** What a provider gives in a region. */
export interface PlannedRegion {
  readonly name: string;
  readonly milliseconds: number;
  readonly quota: { readonly processors: number; readonly memoryBytes: number; readonly graphics: number };
  readonly sizes: PlannedSite['sizes'];
  readonly datastores: PlannedSite['datastores'];
}

export interface EstatePlan {
  readonly seed: string;
  readonly zone: string;
  readonly root: string;
  readonly start: Instant;
  /** Speed of the clock at first. */
  readonly rate: number;
  readonly sites: readonly PlannedSite[];
  readonly chassis: readonly PlannedChassis[];
  readonly streamingStores: readonly {
    readonly name: string;
    readonly site: string;
    /** Hosts that can stream at a time. */
    readonly streams: number;
    readonly capacityBytes: number;
    /** Money for a gigabyte and month. */
    readonly price: number;
  }[];
  readonly providers: readonly {
    readonly name: string;
    readonly regions: readonly PlannedRegion[];
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
  /** What accounts that computers are joined with may do where. */
  readonly rights: readonly RightGiven[];
  /** Keys that are used up host by host. */
  readonly licences: readonly { readonly name: string; readonly activations: number }[];
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
/** Accounts made just for joining, with the right to create and delete computers in their own units only. */
export const joinAccounts: readonly { readonly name: string; readonly units: readonly string[] }[] = [
  { name: 'join-desks', units: ['Desks', 'Contact centre', 'Pilot'].map((name) => unit(name).dn) },
  { name: 'join-reading', units: [unit('Reading rooms').dn] },
];
/** Where such accounts lie. */
export const accountsUnit = unit('Service accounts').dn;

const datastores = (scale: number) => [
  { name: 'fast', capacityBytes: 12e12 * scale, operations: 60_000, price: 0.14, overcommit: 1 },
  { name: 'standard', capacityBytes: 30e12 * scale, operations: 18_000, price: 0.05, overcommit: 1.5 },
  { name: 'archive', capacityBytes: 80e12 * scale, operations: 2_500, price: 0.012, overcommit: 1 },
];

const size = (name: string, processors: number, gigabytes: number, pricePerHour: number, graphics = 0) => ({
  name,
  processors,
  memoryBytes: gigabytes * 1e9,
  graphics,
  pricePerHour,
});

/** What machines can be made in; `desk` for one person each, `shared` for many. */
const sizes = [
  size('desk-2', 2, 8, 0.06),
  size('desk-4', 4, 16, 0.12),
  size('shared-4', 4, 32, 0.16),
  size('shared-6', 6, 48, 0.24),
  size('shared-8', 8, 64, 0.32),
  size('shared-12', 12, 96, 0.48),
];

const mapSize = size('maps-10', 10, 64, 0.95, 1);

export const sites: readonly PlannedSite[] = [
  {
    name: 'yard-a',
    cores: 640,
    makesAtOnce: 48,
    memoryBytes: 6_000e9,
    graphics: 0,
    datastores: datastores(1),
    networks: [
      { name: 'desks', range: '10.20.4.0/23', reserved: 21 },
      { name: 'voice', range: '10.20.8.0/25', reserved: 12 },
    ],
    sizes,
  },
  {
    name: 'yard-b',
    cores: 384,
    makesAtOnce: 40,
    memoryBytes: 2_400e9,
    graphics: 10,
    datastores: datastores(0.6),
    networks: [
      { name: 'reading', range: '10.21.4.0/24', reserved: 9 },
      { name: 'desks', range: '10.21.6.0/24', reserved: 6 },
      { name: 'maps', range: '10.21.8.0/27', reserved: 4 },
    ],
    sizes: [...sizes, mapSize],
  },
  // Machines that stand in a chassis have the size they have.
  {
    name: 'rack-7',
    cores: 144,
    makesAtOnce: 18,
    memoryBytes: 576e9,
    graphics: 0,
    datastores: [{ name: 'stream', capacityBytes: 4e12, operations: 20_000, price: 0.08, overcommit: 1 }],
    networks: [{ name: 'scanning', range: '10.22.0.0/26', reserved: 3 }],
    sizes: [],
  },
  // Delivered last week; nothing runs there yet.
  {
    name: 'rack-8',
    cores: 128,
    makesAtOnce: 16,
    memoryBytes: 512e9,
    graphics: 0,
    datastores: [],
    networks: [{ name: 'scanning-2', range: '10.22.0.64/27', reserved: 3 }],
    sizes: [],
  },
];

/** One machine of the new chassis answers only when it is asked for the second time. */
const SHY_SLOT = 11;

const chassisOf = (rack: number, slots: number, shy = 0): PlannedChassis => ({
  name: `rack-${rack}`,
  site: `rack-${rack}`,
  machines: Array.from({ length: slots }, (_, i) => ({
    serial: `WR${rack}-${String(4_100 + i * 7)}`,
    processors: 8,
    memoryBytes: 32e9,
    answersAtLook: i + 1 === shy ? 2 : 1,
  })),
});

const chassis: readonly PlannedChassis[] = [chassisOf(7, 18), chassisOf(8, 16, SHY_SLOT)];

/** Each has room for a few versions of an image. */
const streamingStores = [
  { name: 'stream-7', site: 'rack-7', streams: 24, capacityBytes: 400e9, price: 0.08 },
  { name: 'stream-8', site: 'rack-8', streams: 20, capacityBytes: 200e9, price: 0.08 },
];

/** The same everywhere but for what it costs, and how much of it there is at first. */
const region = (name: string, milliseconds: number, cores: number, dearer: number, graphics = 0) => ({
  name,
  milliseconds,
  quota: { processors: cores, memoryBytes: cores * 8e9, graphics },
  sizes: [...sizes, ...(graphics > 0 ? [mapSize] : [])].map((one) => ({
    ...one,
    pricePerHour: Math.round(one.pricePerHour * dearer * 1_000) / 1_000,
  })),
  datastores: datastores(0.2).map((one) => ({
    ...one,
    price: Math.round(one.price * dearer * 1_000) / 1_000,
  })),
});

const providers = [
  { name: 'Harrowdale Hosting', regions: [region('coast', 9, 64, 1.35), region('hills', 4, 96, 1.5, 4)] },
  { name: 'Orrinside', regions: [region('north', 21, 160, 1.1), region('south', 34, 256, 0.95)] },
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
    sites,
    chassis,
    streamingStores,
    providers,
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
      ...[
        'Build',
        'Reading rooms',
        'Desks',
        'Contact centre',
        'Maps',
        'Digitisation',
        'Pilot',
        'Service accounts',
      ].map(unit),
    ],
    rights: joinAccounts.flatMap(({ name: account, units }) =>
      units.flatMap((dn) => unitRights.map((right) => ({ unit: dn, account, right }))),
    ),
    licences: [{ name: 'desktop-multi-2027', activations: 120 }],
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
