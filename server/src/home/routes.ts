/** Home, journal, tape and health: what spans all stations. */
import type { Router } from 'express';
import { homeEndpoints } from '@vatline/contract/home';
import { serve } from '../platform/http.ts';
import type { Parts } from '../platform/parts.ts';
import type { CutSchedules } from '../image/cut-schedules.ts';
import type { ImageStore } from '../image/store.ts';
import type { CertificateStore } from '../package/certificates.ts';
import type { PackageStore } from '../package/store.ts';
import type { PoolStore } from '../pool/pools.ts';
import type { RolloutStore } from '../rollout/store.ts';
import { HealthCheck } from './health.ts';
import { homeView } from './home-view.ts';
import { tapeItems } from './tape.ts';

export interface Stores {
  readonly images: ImageStore;
  readonly packages: PackageStore;
  readonly pools: PoolStore;
  readonly rollouts: RolloutStore;
  readonly schedules: CutSchedules;
  readonly certificates: Pick<CertificateStore, 'keyFault'>;
}

export function homeRoutes(router: Router, parts: Parts, stores: Stores): void {
  serve(router, homeEndpoints.home, () => homeView(parts, stores));

  serve(router, homeEndpoints.journal, async ({ query }) => {
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
    }));
  });

  serve(router, homeEndpoints.tape, ({ query }) => tapeItems(parts, stores, query.from, query.to));

  const health = new HealthCheck(parts);
  serve(router, homeEndpoints.health, () => health.ask());
}
