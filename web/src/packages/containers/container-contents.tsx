/** What is in a container, read from the container itself; single files can be taken out. */
import { useMemo, useState } from 'react';
import { Virtuoso } from 'react-virtuoso';
import { packagesApi } from '../../api/packages.ts';
import { problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { count, size } from '../../parts/format.ts';

export function ContainerContents({ versionId }: { versionId: string }) {
  const { data, error } = packagesApi.useContentsQuery({ params: { id: versionId } });
  const [filter, setFilter] = useState('');
  const rows = useMemo(() => {
    const wanted = filter.trim().toLowerCase();
    return (data ?? []).filter((row) => row.kind !== 'folder' && row.path.toLowerCase().includes(wanted));
  }, [data, filter]);
  return (
    <div className="contents">
      <ProblemNote problem={problemOf(error)} />
      {data && (
        <>
          <div className="row">
            <input
              className="note-input tree-filter"
              placeholder="path"
              aria-label="Filter what is inside"
              value={filter}
              onChange={(event) => setFilter(event.target.value)}
            />
            <span className="quiet">{count(rows.length)} files and links, read from the container</span>
          </div>
          <Virtuoso
            className="tree"
            tabIndex={0}
            data={rows}
            itemContent={(_i, row) => (
              <div className="tree-row">
                <span className="tree-name mono" title={row.path}>
                  {row.path}
                </span>
                {row.kind === 'link' ? (
                  <span className="quiet mono">to {row.target}</span>
                ) : (
                  <>
                    <span className="number">{size(row.size)}</span>
                    <a
                      href={`/api/v1/package-versions/${versionId}/file?path=${encodeURIComponent(row.path)}`}
                      aria-label={`Take out ${row.path}`}
                    >
                      take out
                    </a>
                  </>
                )}
              </div>
            )}
          />
        </>
      )}
    </div>
  );
}
