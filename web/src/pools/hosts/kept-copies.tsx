/** Copies of hosts that are kept to study, with what they take; nothing where there are none. */
import { Button } from 'antd';
import { poolsApi } from '../../api/pools.ts';
import { problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { moment, size } from '../../parts/format.ts';
import { useEstateTime } from '../../shell/clock.ts';

export function KeptCopies({ poolId }: { poolId: string }) {
  const { zone } = useEstateTime();
  const { data: copies = [] } = poolsApi.useKeptCopiesQuery({ params: { id: poolId } });
  const [drop, dropping] = poolsApi.useDropCopyMutation();
  if (copies.length === 0) return null;
  return (
    <>
      <h2>Kept to study</h2>
      {copies.map((copy) => (
        <div key={copy.id} className="spread version-row">
          <span>
            <span className="mono">{copy.name}</span>{' '}
            <span className="quiet">
              as of {moment(copy.keptAt, zone)}, {size(copy.bytes)}
            </span>
          </span>
          <Button
            size="small"
            loading={dropping.isLoading}
            onClick={() => void drop({ params: { id: poolId, machine: copy.id } })}
          >
            Delete
          </Button>
        </div>
      ))}
      <ProblemNote problem={problemOf(dropping.error)} />
    </>
  );
}
