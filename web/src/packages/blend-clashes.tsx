/** Whether packages that are to be attached together clash, in as little room as the answer needs. */
import { useDeferredValue } from 'react';
import { api, problemOf } from '../shell/api.ts';
import { ProblemNote } from '../parts/field.tsx';
import { plural } from '../parts/format.ts';
import { ClashList } from './clash-list.tsx';

export function BlendClashes({ packageVersionIds }: { packageVersionIds: readonly string[] }) {
  const asked = useDeferredValue(packageVersionIds);
  // Not what was found for the packages before: the sentence would be of others than it names.
  const { currentData: clashes, error } = api.useBlendClashesQuery(
    { body: { packageVersionIds: [...asked] } },
    { skip: asked.length === 0 },
  );
  if (asked.length === 0) return null;
  if (error) return <ProblemNote problem={problemOf(error)} />;
  if (!clashes) return <p className="quiet small">Looking for clashes</p>;
  if (clashes.length > 0) return <ClashList clashes={clashes} />;
  return <p className="quiet small">{plural(asked.length, 'package')} together: nothing clashes.</p>;
}
