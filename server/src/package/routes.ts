/** Packages over HTTP: the library, and what clashes in it. */
import { packageEndpoints } from '@vatline/contract/package';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { clashesBetween, clashesOf } from './clashes.ts';
import type { PackageStore } from './store.ts';

export function packageRoutes(door: Door, parts: Parts, store: PackageStore): void {
  door.serve(packageEndpoints.list, ({ query }) => store.library.page(query));
  door.serve(packageEndpoints.clashes, ({ query }) => clashesOf(parts, store, query.capture));
  door.serve(packageEndpoints.blendClashes, ({ body }) =>
    clashesBetween(parts, store, body.packageVersionIds),
  );
}
