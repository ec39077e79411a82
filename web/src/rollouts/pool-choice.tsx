import { useNavigate } from 'react-router';
import { poolsApi } from '../api/pools.ts';
import { DyeChip } from '../parts/dye-chip.tsx';
import { plural } from '../parts/format.ts';

/** Which pool a rollout is for. */
export function PoolChoice() {
  const navigate = useNavigate();
  const { data: pools } = poolsApi.usePoolsQuery({});
  return (
    <section className="work" aria-label="Plan a rollout">
      <h1 className="answer">Which pool is to run something else?</h1>
      <p className="under-answer">
        A rollout takes one pool from its blend to the next: image version and packages together.
      </p>
      <table className="table" style={{ maxWidth: 620 }}>
        <tbody>
          {pools?.map((pool) => (
            <tr key={pool.id}>
              <td className="mono strong">{pool.name}</td>
              <td>
                {pool.blend && (
                  <DyeChip name={pool.blend.dye} number={pool.blend.imageNumber} note={pool.blend.line} />
                )}
              </td>
              <td className="number">{plural(pool.hosts, 'host')}</td>
              <td>
                <button
                  type="button"
                  className="outline-button"
                  onClick={() => void navigate(`/rollouts/new?pool=${pool.id}`)}
                >
                  Plan for {pool.name}
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {pools?.length === 0 && <p className="quiet">There is no pool yet; make one at the Pools station.</p>}
    </section>
  );
}
