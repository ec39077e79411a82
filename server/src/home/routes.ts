/** Home, journal, tape and health: what spans all stations. */
import { homeEndpoints } from '@vatline/contract/home';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { HealthCheck } from './health.ts';
import { homeView } from './home-view.ts';
import { waitingByStation } from './needs.ts';
import type { Stores } from './stores.ts';
import { tapeItems } from './tape.ts';

export function homeRoutes(door: Door, parts: Parts, stores: Stores): void {
  door.serve(homeEndpoints.home, () => homeView(parts, stores));

  door.serve(homeEndpoints.waiting, () => waitingByStation(parts, stores));

  door.serve(homeEndpoints.journal, async ({ query }) => {
    let rows = parts.db.selectFrom('journal').selectAll().orderBy('id', 'desc').limit(query.limit);
    if (query.after !== undefined) rows = rows.where('id', '<', query.after);
    if (query.q) rows = rows.where('text', 'like', `%${query.q.replace(/[%_]/g, '')}%`);
    return (await rows.execute()).map((row) => ({
      id: row.id,
      at: row.at_ms,
      kind: row.kind,
      subject: row.subject,
      text: row.text,
      to: row.link,
      by: row.by_role,
    }));
  });

  door.serve(homeEndpoints.tape, ({ query }) => tapeItems(parts, stores, query.from, query.to));

  const health = new HealthCheck(parts);
  door.serve(homeEndpoints.health, () => health.ask());
}
