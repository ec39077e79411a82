/** Seconds to sign in on each pool, and which package would save most if it was attached ahead. */
import type { SignInRow } from './share-model.ts';

export function SignInTable({ rows }: { rows: readonly SignInRow[] }) {
  const slowest = Math.max(1, ...rows.map((row) => row.busiest.ms));
  return (
    <table className="table">
      <thead>
        <tr>
          <th>Pool</th>
          <th className="number">Attached</th>
          <th className="number">Usually</th>
          <th colSpan={2}>In the busiest minute</th>
          <th>Attaching ahead saves most with</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(({ pool, packages, usual, busiest }) => {
          const [best] = busiest.savings;
          return (
            <tr key={pool}>
              <td className="mono strong">{pool}</td>
              <td className="number">{packages}</td>
              <td className="number">{seconds(usual.ms)}</td>
              <td className="number">
                {busiest.isSaturated ? <b className="trouble">saturated</b> : seconds(busiest.ms)}
              </td>
              <td style={{ width: 110 }}>
                <span
                  className="size-bar"
                  style={{ width: `${(100 * busiest.ms) / slowest}%` }}
                  aria-hidden
                />
              </td>
              <td>
                {best && best.ms >= 1
                  ? `${best.name}, ${best.ms < 1000 ? `${Math.round(best.ms)} ms` : seconds(best.ms)}`
                  : 'none'}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function seconds(ms: number): string {
  return `${(ms / 1000).toFixed(1)} s`;
}
