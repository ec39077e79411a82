/** Whether a pool fits: for everything it takes what is needed, there and after, and what gives out first. */
import type { FitRowShown, FitShown, PoolPreview } from '@vatline/contract/pool/preview';
import { Finding } from '../../parts/finding.tsx';
import { capital, count, plural, size } from '../../parts/format.ts';
import { How } from '../../parts/how.tsx';
import { fitWords, givesOutFirst } from './fit-words.ts';

/** Of a new pool, or of more hosts for one. */
type Fitted = Pick<PoolPreview, 'fit' | 'conditions' | 'assumed'>;

export function FitPanel({ preview }: { preview: Fitted }) {
  const { fit, conditions } = preview;
  const notHolding = conditions.filter((condition) => condition.verdict !== 'holds');
  return (
    <section aria-label="Does it fit?">
      <h2>Does it fit?</h2>
      {fit ? (
        <>
          {fit.places.map((place, i) => (
            <FitTable
              key={`${place.site} ${i}`}
              title={`${plural(place.hosts, 'host')} on ${place.site}`}
              rows={i === 0 ? [...place.rows, ...fit.shared] : place.rows}
            />
          ))}
          <p className="quiet">
            {largestInWords(fit)} <How rows={howRows(preview)} />
          </p>
        </>
      ) : (
        <p className="quiet">Choose an image version, a size and a place, and it is worked out.</p>
      )}
      {notHolding.map((condition) => (
        <Finding
          key={condition.what}
          tone={condition.verdict === 'fails' ? 'trouble' : 'attention'}
          title={capital(condition.says)}
        />
      ))}
      {conditions.length > notHolding.length && (
        <p className="quiet">
          {capital(
            conditions
              .filter((condition) => condition.verdict === 'holds')
              .map((condition) => condition.says)
              .join('; '),
          )}
          .
        </p>
      )}
    </section>
  );
}

function FitTable({ title, rows }: { title: string; rows: readonly FitRowShown[] }) {
  return (
    <table className="table fit-table" aria-label={title}>
      <thead>
        <tr>
          <th>{title}</th>
          <th className="number">Needed</th>
          <th className="number">There</th>
          <th className="number">After</th>
          <th className="number">For</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => {
          const show = row.what === 'memory' || row.what === 'datastore' ? size : count;
          return (
            <tr key={`${row.what} ${row.of}`} className={row.after < 0 ? 'short' : ''}>
              <td>
                {fitWords[row.what]} {row.of && <span className="quiet">{row.of}</span>}
              </td>
              <td className="number">{show(row.needed)}</td>
              <td className="number">{show(Math.max(0, row.there))}</td>
              <td className="number">{row.after < 0 ? `${show(-row.after)} short` : show(row.after)}</td>
              <td className="number">{row.largest === null ? 'any' : count(row.largest)}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function largestInWords({ largest, binding }: FitShown): string {
  const what = binding === null ? '' : `; there ${givesOutFirst(binding)}`;
  return `The largest batch that fits is ${count(largest)}${what}.`;
}

function howRows({ assumed }: Fitted): readonly (readonly [string, string])[] {
  return [
    ['Full clone', 'hosts × (image + growth × days + swap + personal disk)'],
    ['Linked clone', 'image + hosts × (growth × days + swap + personal disk)'],
    [
      'Over-committed',
      'what hosts may take is divided by the bytes that the datastore promises for each that is there',
    ],
    ['There', 'what is free, less what is being made for others'],
    [
      'Assumed',
      `growth ${size(assumed.growthBytesPerDay)} a day, swap file ${size(assumed.swapBytes)}, ${assumed.atWork} operations a second of a host at work; a session of at most ${assumed.longestSessionDays * 24} hours where hosts return to clean`,
    ],
  ];
}
