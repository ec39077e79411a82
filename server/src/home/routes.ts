/** Home, journal, tape and health: what spans all stations. */
import { homeEndpoints } from '@vatline/contract/home';
import type { Door } from '../platform/door.ts';
import { holding, pageFrom, placeIn } from '../platform/page.ts';
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
    const [before] = placeIn(query.after, ['number']) ?? [];
    let all = parts.db.selectFrom('journal');
    if (query.q) all = all.where('text', 'like', holding(query.q));
    let rows = all
      .selectAll()
      .orderBy('id', 'desc')
      .limit(query.limit + 1);
    if (before !== undefined) rows = rows.where('id', '<', Number(before));
    const { total } = await all
      .select(({ fn }) => fn.countAll<number>().as('total'))
      .executeTakeFirstOrThrow();
    return pageFrom(
      await rows.execute(),
      { limit: query.limit, total, placeOf: (row) => [row.id] },
      (shown) =>
        shown.map(({ at_ms, link, by_role, ...row }) => ({ ...row, at: at_ms, to: link, by: by_role })),
    );
  });

  door.serve(homeEndpoints.tape, ({ query }) => tapeItems(parts, stores, query.from, query.to));

  const health = new HealthCheck(parts);
  door.serve(homeEndpoints.health, () => health.ask());
}
