/** What the hosts of a pool run from now to a date: one dye after the other, slanting over while hosts change. */
import type { PoolAhead } from '@vatline/contract/ahead';
import type { DyeName } from '@vatline/core/dye/dyes';
import { dyeBackground } from '../../parts/hatch.ts';
import { day } from '../../parts/format.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { ribbonParts } from './ribbon-parts.ts';

interface Props {
  readonly pool: PoolAhead;
  readonly at: number;
}

export function DyeRibbon({ pool, at }: Props) {
  const { now, zone } = useEstateTime();
  const parts = ribbonParts(pool, now, at);
  return (
    <div className="ahead-ribbon" aria-hidden>
      <div className="ahead-ribbon-band">
        {parts.map(({ from, to, before, after }) => (
          <div
            key={from}
            className="ahead-ribbon-part"
            style={{ left: `${from * 100}%`, width: `${(to - from) * 100}%` }}
          >
            <span style={background(before)} />
            {before !== after && <span className="slanting" style={background(after)} />}
          </div>
        ))}
      </div>
      <span className="quiet small">{day(now, zone)}</span>
      <span className="quiet small">{day(at, zone)}</span>
    </div>
  );
}

/** Nothing for what is yet to be cut. */
function background(dye: DyeName | null) {
  return dye === null ? {} : { background: dyeBackground(dye) };
}
