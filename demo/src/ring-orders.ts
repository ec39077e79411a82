/** Orders in which the library's pools get something new, and what has to hold in between. */

interface PlannedOrder {
  readonly name: string;
  readonly rings: readonly OrderedRing[];
}

interface OrderedRing {
  readonly name: string;
  readonly pool: string;
  /** Percent of the pool's hosts, an equal part of each site; nothing for all that are left. */
  readonly percent?: number;
  readonly window: { readonly rule: string; readonly start: string; readonly end: string };
  readonly batch: number;
  readonly drainLimitMinutes: number;
  readonly reserve: number | null;
  readonly failures: number;
  readonly soakHours: number;
  readonly needsApproval: boolean;
}

const nightly = { rule: 'FREQ=DAILY', start: '01:00', end: '05:00' };
const closed = { rule: 'FREQ=DAILY', start: '20:30', end: '06:30' };

export const ringOrders: readonly PlannedOrder[] = [
  {
    name: 'Staff, pilot first',
    rings: [
      {
        name: 'Pilot',
        pool: 'pilot-bench',
        window: nightly,
        batch: 3,
        drainLimitMinutes: 25,
        reserve: null,
        failures: 1,
        soakHours: 48,
        needsApproval: true,
      },
      {
        name: 'Branch desks',
        pool: 'desk-staff',
        window: { rule: 'FREQ=WEEKLY;BYDAY=SU', start: '01:00', end: '05:00' },
        batch: 8,
        drainLimitMinutes: 30,
        reserve: null,
        failures: 3,
        soakHours: 24,
        needsApproval: false,
      },
      {
        name: 'Contact centre',
        pool: 'contact-centre',
        window: { rule: 'FREQ=WEEKLY;BYDAY=TU,FR', start: '01:00', end: '05:00' },
        batch: 6,
        drainLimitMinutes: 25,
        reserve: 0.1,
        failures: 4,
        soakHours: 0,
        needsApproval: false,
      },
    ],
  },
  {
    name: 'Reading rooms by parts',
    rings: [
      {
        name: 'First tenth',
        pool: 'reading-rooms',
        percent: 10,
        window: closed,
        batch: 6,
        drainLimitMinutes: 10,
        reserve: null,
        failures: 2,
        soakHours: 24,
        needsApproval: true,
      },
      {
        name: 'A third',
        pool: 'reading-rooms',
        percent: 30,
        window: closed,
        batch: 10,
        drainLimitMinutes: 10,
        reserve: null,
        failures: 3,
        soakHours: 12,
        needsApproval: false,
      },
      {
        name: 'The rest',
        pool: 'reading-rooms',
        window: closed,
        batch: 15,
        drainLimitMinutes: 10,
        reserve: null,
        failures: 4,
        soakHours: 0,
        needsApproval: false,
      },
    ],
  },
];
