/** What clashes between the packages that hosts are offered: all of them, or those of one pool's blend. */
import '../packages.css';
import { Select } from 'antd';
import { useSearchParams } from 'react-router';
import type { Problem } from '@vatline/contract/endpoint';
import type { Clash } from '@vatline/contract/package';
import type { Blend } from '@vatline/contract/pool/blend';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import { packagesApi } from '../../api/packages.ts';
import { poolsApi } from '../../api/pools.ts';
import { problemOf } from '../../api/problem.ts';
import { Station } from '../../shell/station.tsx';
import { Field, ProblemNote } from '../../parts/field.tsx';
import { plural } from '../../parts/format.ts';
import { ClashList } from './clash-list.tsx';
import { CapturePackage, usePackageRack } from '../packages-page.tsx';

interface PoolBlend {
  readonly pool: PoolSummary;
  readonly blend: Blend;
  readonly label: string;
}

export function ClashesPage() {
  const { items } = usePackageRack();
  const [search, setSearch] = useSearchParams();
  const { data: pools } = poolsApi.usePoolsQuery({});
  const blends = (pools ?? []).flatMap(blendsOf);
  const chosen = blends.find(({ blend }) => blend.id === search.get('blend'));
  const isUnknown = search.has('blend') && pools !== undefined && !chosen;
  return (
    <Station items={items} action={<CapturePackage />}>
      <div className="bench-columns">
        <section className="work" aria-label="Clashes">
          {isUnknown ? (
            <h1 className="answer">No pool has this blend, now or next.</h1>
          ) : chosen ? (
            <OfBlend chosen={chosen} />
          ) : (
            !search.has('blend') && <OfLibrary pools={pools} />
          )}
        </section>
        <aside className="evidence" aria-label="Between which packages">
          <h2>Between which packages</h2>
          <Field label="Attached together" hint="a pool's blend is what its hosts have, or get next">
            <Select
              aria-label="Attached together"
              showSearch={{ optionFilterProp: 'label' }}
              value={chosen?.blend.id ?? ''}
              onChange={(id) => setSearch(id === '' ? {} : { blend: id })}
              options={[
                { value: '', label: 'all that are offered' },
                ...blends.map(({ blend, label }) => ({ value: blend.id, label })),
              ]}
            />
          </Field>
          <p className="quiet small">
            Compared, each with each: files and settings of one name with other content, services, names of
            entry points, file associations, protocols, what a package needs, two versions of one package.
          </p>
        </aside>
      </div>
    </Station>
  );
}

function blendsOf(pool: PoolSummary): PoolBlend[] {
  const row = (blend: Blend | null, when: string): PoolBlend[] =>
    blend ? [{ pool, blend, label: `${pool.name}, ${when} blend ${blend.number}` }] : [];
  return [...row(pool.blend, 'now'), ...row(pool.nextBlend, 'next')];
}

function OfLibrary({ pools }: { pools: readonly PoolSummary[] | undefined }) {
  const { packages } = usePackageRack();
  const { data, error } = packagesApi.useClashesQuery({ query: {} });
  const offered = (packages ?? []).filter((row) => row.versions.some((version) => version.state === 'live'));
  return (
    <Answer
      clashes={data}
      where="between packages"
      problem={problemOf(error)}
      about={`The newest offered versions of ${plural(offered.length, 'package')}; no pool needs to have them all.`}
      pools={pools}
    />
  );
}

function OfBlend({ chosen: { pool, blend } }: { chosen: PoolBlend }) {
  const packageVersionIds = blend.packages.map((row) => row.id);
  const { currentData, error } = packagesApi.useBlendClashesQuery({ body: { packageVersionIds } });
  return (
    <Answer
      clashes={currentData}
      where={`on ${pool.name}`}
      problem={problemOf(error)}
      about={`Blend ${blend.number}, which ${plural(pool.hosts, 'host')} ${blend.id === pool.blend?.id ? 'have now' : 'get next'}: ${plural(packageVersionIds.length, 'package')}.`}
    />
  );
}

function Answer({
  clashes,
  where,
  about,
  problem,
  pools,
}: {
  clashes: readonly Clash[] | undefined;
  where: string;
  about: string;
  problem: Problem | undefined;
  pools?: readonly PoolSummary[] | undefined;
}) {
  return (
    <>
      {clashes && (
        <h1 className="answer">
          {clashes.length === 0
            ? `Nothing clashes ${where}.`
            : `${plural(clashes.length, 'clash', 'clashes')} ${where}.`}
        </h1>
      )}
      <p className="under-answer">{about}</p>
      <ProblemNote problem={problem} />
      {clashes && <ClashList clashes={clashes} {...(pools ? { pools } : {})} />}
    </>
  );
}
