/** What would make a pool fit that does not: each worked out, and taken with one press. */
import { Button } from 'antd';
import type { PoolDraft } from '@vatline/contract/pool/kinds';
import type { FitChangeShown, FitShown } from '@vatline/contract/pool/preview';
import { estateApi } from '../../api/estate.ts';
import { problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { count, plural, size, time } from '../../parts/format.ts';
import { useEstateTime } from '../../shell/clock.ts';
import type { DraftPlace, PoolForm } from './pool-form.ts';

export function FitChanges({ form, fit }: { form: PoolForm; fit: FitShown }) {
  if (fit.fits) return null;
  return (
    <section aria-label="What would make it fit">
      <h2>What would make it fit</h2>
      {fit.largest > 0 && (
        <Change
          text={`Make ${plural(fit.largest, 'host')} instead of ${count(form.draft.count ?? 0)}`}
          take={() => form.set({ count: fit.largest })}
        />
      )}
      {fit.changes.map((change, i) =>
        change.kind === 'quota' ? (
          <QuotaRequest key={i} change={change} />
        ) : (
          <Change
            key={i}
            text={inWords(change, form.draft)}
            take={() => form.set(draftAfter(change, form.draft))}
          />
        ),
      )}
      {fit.changes.length === 0 && fit.largest === 0 && (
        <p className="quiet">
          Nothing that can be chosen here: no size, datastore, network or site has the room.
        </p>
      )}
    </section>
  );
}

function Change({ text, take }: { text: string; take: () => void }) {
  return (
    <div className="spread fit-change">
      <span>{text}</span>
      <Button size="small" onClick={take}>
        Do that
      </Button>
    </div>
  );
}

/** Asked for here and answered by those who run the site; until then it stands here. */
function QuotaRequest({ change }: { change: Extract<FitChangeShown, { kind: 'quota' }> }) {
  const { data: requests = [] } = estateApi.useQuotaRequestsQuery({});
  const [ask, asking] = estateApi.useRequestQuotaMutation();
  const { zone } = useEstateTime();
  const { site, asks, text } = change;
  const of = (what: string) => asks.find((one) => one.what === what)?.more ?? 0;
  const newest = requests.find((request) => request.site === site);
  const press = () =>
    void ask({
      body: { site, cores: of('cores'), memoryBytes: of('memory'), graphics: of('graphics'), text },
    });
  return (
    <div className="fit-change">
      <div className="spread">
        <span>
          Ask for more on {site}: {asks.map(asked).join(' and ')}
        </span>
        {newest?.state === 'asked' ? (
          <span className="quiet">asked at {time(newest.askedAt, zone)}, not answered yet</span>
        ) : (
          <Button size="small" loading={asking.isLoading} onClick={press}>
            Ask for it
          </Button>
        )}
      </div>
      <p className="quota-text">{text}</p>
      {newest?.state === 'refused' && <p className="trouble">Refused: {newest.answer}.</p>}
      <ProblemNote problem={problemOf(asking.error)} />
    </div>
  );
}

function asked({ what, more }: { readonly what: string; readonly more: number }): string {
  if (what === 'memory') return `${size(more)} of memory`;
  return `${count(more)} ${what === 'cores' ? 'cores' : 'graphics processors'}`;
}

type Placed = Exclude<FitChangeShown, { kind: 'quota' }>;

function inWords(change: Placed, draft: PoolDraft): string {
  if (change.kind === 'two sites') {
    const { here, there, hosts, rest } = change;
    const ofSize = here.size === draft.size ? '' : `, all of size ${here.size}`;
    return `${count(hosts)} on ${here.site} and ${count(rest)} on ${there.site}${ofSize}`;
  }
  const { placing, largest } = change;
  const upTo = `up to ${count(largest)} fit`;
  if (change.kind === 'size') return `Size ${placing.size} on ${placing.site}: ${upTo}`;
  if (change.kind === 'datastore') return `Datastore ${placing.datastore}: ${upTo}`;
  if (change.kind === 'network') return `Network ${placing.network}: ${upTo}`;
  return `All on ${placing.site}${placing.size === draft.size ? '' : `, size ${placing.size}`}: ${upTo}`;
}

type Placing = Extract<Placed, { placing: unknown }>['placing'];

function draftAfter(change: Placed, draft: PoolDraft): PoolDraft {
  if (change.kind === 'two sites')
    return {
      size: change.here.size,
      places: [
        { ...placeOf(change.here), atMost: change.hosts },
        { ...placeOf(change.there), atMost: null },
      ],
    };
  const [, ...others] = draft.places ?? [];
  // A change was worked out as if all stood on the first place.
  const rest = change.kind === 'site' ? [] : others;
  const atMost = rest.length > 0 ? (draft.places?.[0]?.atMost ?? null) : null;
  return { size: change.placing.size, places: [{ ...placeOf(change.placing), atMost }, ...rest] };
}

function placeOf({ site, network, datastore }: Placing): DraftPlace {
  return { site, network, datastore, parentDatastore: null, dataDatastore: null };
}
