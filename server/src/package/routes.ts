/** Packages over HTTP: the library, and what clashes in it. */
import type { Router } from 'express';
import { packageEndpoints } from '@vatline/contract/package';
import { serve } from '../platform/http.ts';
import type { Parts } from '../platform/parts.ts';
import { clashesBetween, clashesOf } from './clashes.ts';
import type { PackageStore } from './store.ts';

export function packageRoutes(router: Router, parts: Parts, store: PackageStore): void {
  serve(router, packageEndpoints.list, () => store.library.summaries());
  serve(router, packageEndpoints.clashes, ({ query }) => clashesOf(parts, store, query.capture));
  serve(router, packageEndpoints.blendClashes, ({ body }) =>
    clashesBetween(parts, store, body.packageVersionIds),
  );
}
