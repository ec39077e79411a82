import { blendEndpoints } from '@vatline/contract/blends';
import { blendChecks } from '@vatline/core/rollout/blends/checks';
import { clashesBetween } from '../../package/clashes.ts';
import type { PackageStore } from '../../package/store.ts';
import type { Door } from '../../platform/door.ts';
import type { Parts } from '../../platform/parts.ts';
import { invalid } from '../../platform/problem.ts';
import type { Plans } from '../plans.ts';
import { blendFacts } from './facts.ts';
import { hostsLosing } from './losing.ts';
import { BlendPages } from './present.ts';

export function blendRoutes(door: Door, parts: Parts, plans: Plans, packages: PackageStore): void {
  const pages = new BlendPages(parts, plans);

  door.serve(blendEndpoints.inUse, () => pages.inUse());
  door.serve(blendEndpoints.ofPool, ({ params, query }) => pages.ofPool(params.id, query));
  door.serve(blendEndpoints.comparison, ({ params, query }) => pages.comparison(params.id, query.with));

  door.serve(blendEndpoints.checks, async ({ body }) => {
    const pool = await plans.pools.pool(body.poolId);
    const at = body.at ?? parts.estate.clock.now();
    const found = await clashesBetween(parts, packages, body.packageVersionIds);
    const clashes = found.map((clash) => ({ ...clash, packages: clash.packages.map(({ id }) => id) }));
    const { facts, unknown } = await blendFacts(parts, { ...body, pool: pool.name, at, clashes });
    if (!facts) throw invalid(unknown);
    const losing = await hostsLosing(plans, pool, body);
    return { at, checks: blendChecks({ ...facts, losing }).map((check) => ({ ...check })) };
  });
}
