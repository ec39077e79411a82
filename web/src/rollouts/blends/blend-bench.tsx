/** The blends of one pool: who runs which, the way to each, and what lies between two of them. */
import { useState } from 'react';
import type { BlendUse } from '@vatline/contract/blends';
import type { Blend } from '@vatline/contract/pool/blend';
import { blendsApi } from '../../api/blends.ts';
import { DyeChip } from '../../parts/dye-chip.tsx';
import { How } from '../../parts/how.tsx';
import { moment, plural } from '../../parts/format.ts';
import { rowsOf } from '../../parts/paged-list.tsx';
import { useEstateTime } from '../../shell/clock.ts';
import { BlendChecks } from './blend-checks.tsx';
import { BlendDifference } from './blend-difference.tsx';
import { BlendTable } from './blend-table.tsx';
import { Everywhere } from './everywhere.tsx';
import { runningInWords } from './needs-in-words.ts';

interface Props {
  readonly use: BlendUse;
  readonly all: readonly BlendUse[];
}

export function BlendBench({ use, all }: Props) {
  const list = blendsApi.usePoolBlendsInfiniteQuery({ params: { id: use.poolId }, query: { limit: 50 } });
  const rows = rowsOf(list);
  const [pair, setPair] = useState<{ readonly from: string; readonly to: string } | undefined>();
  const likely = likelyPair(
    use,
    rows.map(({ blend }) => blend),
  );
  const chosen = pair ?? likely;
  const to = rows.find(({ blend }) => blend.id === chosen?.to)?.blend;
  return (
    <div className="bench-columns">
      <section className="work" aria-label={`Blends of ${use.pool}`}>
        <Answer use={use} />
        <BlendTable
          use={use}
          list={list}
          chosen={chosen}
          onChoose={(to) => setPair({ from: use.current?.id ?? to, to })}
        />
        {chosen && <BlendDifference rows={rows} pair={chosen} onChange={setPair} />}
      </section>
      <aside className="evidence" aria-label="Whether it can be used">
        {to && (
          <>
            <h2>Can blend {to.number} be used now?</h2>
            <BlendChecks
              poolId={use.poolId}
              imageVersionId={to.imageVersionId}
              packageVersionIds={to.packages.map(({ id }) => id)}
              at={null}
            />
          </>
        )}
        <Everywhere all={all} from={use.current} lineId={use.lineId} />
      </aside>
    </div>
  );
}

/** What is most likely asked: what comes against what is, or what is against what was. */
function likelyPair({ current, next }: BlendUse, blends: readonly Blend[]) {
  if (!current) return undefined;
  if (next) return { from: current.id, to: next.id };
  const before = blends.find(({ number }) => number < current.number);
  return before && { from: before.id, to: current.id };
}

function Answer({ use }: { readonly use: BlendUse }) {
  const { zone } = useEstateTime();
  const { current, next, running, hosts, pool } = use;
  if (!current) return <h1 className="answer">{pool} has no blend yet.</h1>;
  const on = running.find(({ blend }) => blend.id === current.id)?.hosts ?? 0;
  return (
    <>
      <h1 className="answer">{runningInWords(pool, hosts, on, current.number)}</h1>
      <p className="under-answer">
        <DyeChip name={current.dye} number={current.imageNumber} note={current.line} /> with{' '}
        {plural(current.packages.length, 'package')}, since {moment(current.madeAt, zone)}
        {next && (
          <>
            ; next is blend {next.number}, <DyeChip name={next.dye} number={next.imageNumber} />
          </>
        )}
        .{' '}
        <How
          rows={[
            [
              'A blend',
              'an image version and the package versions attached to it; once made it never changes',
            ],
            [
              'Rebuild',
              'where the image is another one, or nobody knows what is on a host: it is emptied and made anew',
            ],
            [
              'Attach',
              'where only packages differ: the agent does it at its next check, and nobody leaves the host',
            ],
          ]}
        />
      </p>
    </>
  );
}
