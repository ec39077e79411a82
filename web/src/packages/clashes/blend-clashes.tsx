/** Whether packages that are to be attached together clash, in as little room as the answer needs. */
import { useDeferredValue } from 'react';
import { packagesApi } from '../../api/packages.ts';
import { problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { plural } from '../../parts/format.ts';
import { ClashList } from './clash-list.tsx';

export function BlendClashes({ packageVersionIds }: { packageVersionIds: readonly string[] }) {
  const asked = useDeferredValue(packageVersionIds);
  const { data, error, isFetching } = packagesApi.useBlendClashesQuery(
    { body: { packageVersionIds: [...asked] } },
    { skip: asked.length === 0 },
  );
  if (asked.length === 0) return null;
  if (error) return <ProblemNote problem={problemOf(error)} />;
  if (!data) return <p className="quiet small">Looking for clashes</p>;
  return (
    <div aria-busy={isFetching}>
      {data.length === 0 ? (
        <p className="quiet small">{plural(asked.length, 'package')} together: nothing clashes.</p>
      ) : (
        <ClashList clashes={data} />
      )}
    </div>
  );
}
