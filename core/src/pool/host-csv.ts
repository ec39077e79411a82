/** Hosts of a pool as CSV (RFC 4180), a line each, for whoever works on in a spreadsheet. */
import { stringify } from 'csv-stringify/browser/esm/sync';
import { formatInstant, type Instant } from '../time/instant.ts';

export interface ListedHost {
  readonly name: string;
  readonly state: string;
  readonly site: string;
  readonly blend: number;
  readonly sessions: number;
  readonly owner: string | null;
  readonly lastReport: Instant | null;
  readonly upSince: Instant | null;
  readonly ownBytes: number;
  readonly note: string;
}

const columns = [
  'name',
  'state',
  'site',
  'blend',
  'sessions',
  'owner',
  'last report',
  'up since',
  'own bytes',
  'note',
];

/** Instants in ISO 8601, UTC. What a spreadsheet would take for a formula is made text by a quote before it. */
export function hostsCsv(hosts: readonly ListedHost[]): string {
  const rows = hosts.map((host) => [
    host.name,
    host.state,
    host.site,
    host.blend,
    host.sessions,
    host.owner ?? '',
    host.lastReport === null ? '' : formatInstant(host.lastReport),
    host.upSince === null ? '' : formatInstant(host.upSince),
    host.ownBytes,
    host.note,
  ]);
  return stringify([columns, ...rows], { escape_formulas: true, record_delimiter: '\r\n' });
}
