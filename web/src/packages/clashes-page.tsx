/** What clashes between the packages that hosts are offered. */
import './packages.css';
import { api, problemOf } from '../shell/api.ts';
import { Station } from '../shell/station.tsx';
import { ProblemNote } from '../parts/field.tsx';
import { plural } from '../parts/format.ts';
import { ClashList } from './clash-list.tsx';
import { PackagesFoot, usePackageRack } from './packages-page.tsx';

export function ClashesPage() {
  const { packages, items } = usePackageRack();
  const { data, error } = api.useClashesQuery({ query: {} });
  const offered = (packages ?? []).filter((row) => row.versions.some((version) => version.state === 'live'));
  return (
    <Station items={items} foot={<PackagesFoot />}>
      <section className="work" aria-label="Clashes">
        {data && (
          <h1 className="answer">
            {data.length === 0
              ? 'No two packages clash.'
              : `${plural(data.length, 'clash', 'clashes')} between packages.`}
          </h1>
        )}
        <p className="under-answer">
          The newest offered versions of {plural(offered.length, 'package')}, each with each: files and
          settings of one name with other content, services, entry points, file associations.
        </p>
        <ProblemNote problem={problemOf(error)} />
        {data && <ClashList clashes={data} />}
      </section>
    </Station>
  );
}
