/** The names that a pattern gives, and which of them are taken. */
import type { PoolPreview } from '@vatline/contract/pool/preview';
import { count, plural } from '../../parts/format.ts';

const SHOWN = 12;

export function NamesPanel({
  preview: { names, clashes },
  fillGaps,
}: {
  preview: Pick<PoolPreview, 'names' | 'clashes'>;
  fillGaps: boolean;
}) {
  const taken = new Set(clashes);
  return (
    <section aria-label="Names">
      <h2>Names</h2>
      {names.length > 0 ? (
        <>
          <p className="name-list mono">
            {names.slice(0, SHOWN).map((name) => (
              <span key={name} className={taken.has(name) ? 'trouble' : ''}>
                {name}
              </span>
            ))}
          </p>
          <p className="quiet">
            {names.length > SHOWN && `up to ${names.at(-1)}; `}
            {clashes.length === 0
              ? 'none is taken'
              : fillGaps
                ? `${plural(clashes.length, 'taken name')} passed over, the first ${clashes[0]}`
                : `${count(clashes.length)} taken, shown in red`}
          </p>
        </>
      ) : (
        <p className="quiet">The names stand here as soon as the pattern gives any.</p>
      )}
    </section>
  );
}
