/** The same as the lanes, in figures. */
import type { RingsForecast } from '@vatline/contract/rings/order';
import type { PlannedRing } from '@vatline/contract/rings/ring';
import { useEstateTime } from '../../shell/clock.ts';
import { moment } from '../../parts/format.ts';
import { gateInWords } from './planned-lanes.ts';

interface Props {
  readonly rings: readonly PlannedRing[];
  readonly answer: RingsForecast;
}

export function RingTable({ rings, answer }: Props) {
  const { zone } = useEstateTime();
  const when = (at: number | null) => (at === null ? '–' : moment(at, zone));
  return (
    <table className="table">
      <thead>
        <tr>
          <th>Ring</th>
          <th className="number">Hosts</th>
          <th>Opens</th>
          <th>Done, 9 in 10</th>
          <th className="number">Windows</th>
          <th className="number">Seats free</th>
          <th>Then</th>
        </tr>
      </thead>
      <tbody>
        {answer.rings.map((ring, i) => {
          const planned = rings[i];
          const seats = ring.minSeatsLeft.p10;
          return (
            <tr key={i}>
              <td>{ring.name}</td>
              <td className="number">{ring.hosts}</td>
              <td>{when(ring.opens.p50)}</td>
              <td>{ring.hosts === 0 ? 'runs it already' : when(ring.finish.p90)}</td>
              <td className="number">{ring.hosts === 0 ? '' : ring.windowsUsed.p50}</td>
              <td className={seats < 0 ? 'number trouble' : 'number'}>
                {ring.hosts === 0 ? '' : Math.floor(seats)}
              </td>
              <td className="quiet">{planned && i < rings.length - 1 ? gateInWords(planned.gate) : ''}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
