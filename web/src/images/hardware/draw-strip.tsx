/** How often the draws came to how much: bars, with the 95th percentile and the limit marked. */
import './draw-strip.css';
import type { Histogram } from '@vatline/core/pool/histogram';

interface Props {
  readonly label: string;
  readonly histogram: Histogram;
  readonly p95: number;
  readonly limit: number;
  readonly words: (value: number) => string;
}

export function DrawStrip({ label, histogram, p95, limit, words }: Props) {
  const most = Math.max(...histogram.counts, 1);
  const at = (value: number) => `${(value / histogram.top) * 100}%`;
  const over = p95 > limit;
  return (
    <figure className="draw-strip" aria-label={label}>
      <figcaption className="spread">
        <span>{label}</span>
        <span className={over ? 'trouble' : 'quiet'}>
          95 in 100 within {words(p95)}, limit {words(limit)}
        </span>
      </figcaption>
      <div className="draw-bars">
        {histogram.counts.map((n, i) => (
          <i key={i} style={{ height: `${(n / most) * 100}%` }} />
        ))}
        <b className={over ? 'limit over' : 'limit'} style={{ left: at(limit) }} />
        <b className="p95" style={{ left: at(p95) }} />
      </div>
    </figure>
  );
}
