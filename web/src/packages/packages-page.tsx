/** The Packages station: what is packaged, in which containers, and what waits. */
import './packages.css';
import { Button } from 'antd';
import { Link, Navigate, useNavigate, useParams } from 'react-router';
import type { Capture } from '@vatline/contract/capture';
import type { PackageSummary } from '@vatline/contract/package';
import { packagesApi } from '../api/packages.ts';
import { problemOf } from '../api/problem.ts';
import { useEstateTime } from '../shell/clock.ts';
import { Station } from '../shell/station.tsx';
import { ProblemNote } from '../parts/field.tsx';
import { count, day, plural } from '../parts/format.ts';
import { CompareVersions } from './containers/compare-versions.tsx';
import { ContainerCard } from './containers/container-card.tsx';
import { KeepVersions } from './containers/keep-versions.tsx';
import { NewCapture } from './capture/new-capture.tsx';
import { useAllPackages } from '../parts/all-packages.ts';

export function usePackageRack() {
  const data = useAllPackages();
  const items = (data ?? []).map((row) => ({ to: `/packages/${row.id}`, title: row.name, sub: noteOf(row) }));
  return { packages: data, items };
}

export function CapturePackage() {
  const navigate = useNavigate();
  return <Button onClick={() => void navigate('/packages/new')}>Capture a package</Button>;
}

/** `3 pools`, `no pool`. */
function poolsOf(row: PackageSummary): string {
  const pools = new Set(row.versions.flatMap((version) => version.usedBy)).size;
  return pools === 0 ? 'no pool' : plural(pools, 'pool');
}

function noteOf(row: PackageSummary): string {
  if (row.waiting) return `${row.waiting} waits, ${row.versions[0]?.version ?? 'none'} live`;
  if (row.versions.length > 0) return `${row.versions.map((v) => v.version).join(', ')} on ${poolsOf(row)}`;
  return [row.delivery, row.note].filter(Boolean).join(': ');
}

export function PackagesPage() {
  const { packageId } = useParams();
  const { packages, items } = usePackageRack();
  const first = packages?.find((row) => row.waiting) ?? packages?.[0];
  const chosen = packages?.find(
    (row) => row.id === packageId || row.versions.some((version) => version.id === packageId),
  );
  return (
    <Station items={items} action={<CapturePackage />}>
      {packageId === 'new' ? (
        <NewCapture />
      ) : chosen ? (
        <PackageBench key={chosen.id} row={chosen} />
      ) : packageId ? (
        packages && <p className="work">There is no such package.</p>
      ) : first ? (
        <Navigate to={`/packages/${first.id}`} replace />
      ) : (
        packages && <NewCapture />
      )}
    </Station>
  );
}

function PackageBench({ row }: { row: PackageSummary }) {
  const navigate = useNavigate();
  const tab = usePackageTab();
  const [capture, { error, isLoading }] = packagesApi.useCaptureMutation();
  const { data: installers = [] } = packagesApi.useInstallersQuery({});
  const wanted = installers.filter((installer) => installer.name === row.name).at(-1);
  const waiting = row.waiting ?? (row.versions.length === 0 ? wanted?.version : undefined);
  const begin = async () => {
    const installer = installers.find((own) => own.name === row.name && own.version === waiting);
    if (!installer) return;
    const result = await capture({ body: { installers: [installer.id] } });
    if (result.data) void navigate(`/packages/capture/${result.data.captureId}`);
  };
  return (
    <section className="work" aria-label={row.name}>
      <h1 className="answer">{headline(row)}</h1>
      <p className="under-answer">
        {row.publisher}
        {row.note && `; ${row.note}`}.
      </p>
      {waiting && (
        <div className="notice spread">
          <span>
            {row.name} {waiting} can be captured on the practice packaging machine: inventory, install,
            inventory.
          </span>
          <Button type="primary" loading={isLoading} onClick={() => void begin()}>
            Capture {waiting}
          </Button>
        </div>
      )}
      <ProblemNote problem={problemOf(error)} />
      {row.versions.length > 0 && <PackageTabs row={row} tab={tab} />}
      {tab === 'compare' && <CompareVersions row={row} />}
      {tab === 'keep' && <KeepVersions row={row} />}
      {tab === 'versions' &&
        row.versions.map((version) => <ContainerCard key={version.id} version={version} />)}
      {tab === 'versions' && row.captures.length > 0 && <Captures captures={row.captures} />}
    </section>
  );
}

const tabs = [
  ['versions', 'Versions'],
  ['compare', 'What changed'],
  ['keep', 'Which are kept'],
] as const;
type Tab = (typeof tabs)[number][0];

function usePackageTab(): Tab {
  const { tab } = useParams();
  return tabs.find(([name]) => name === tab)?.[0] ?? 'versions';
}

function PackageTabs({ row, tab }: { row: PackageSummary; tab: Tab }) {
  return (
    <nav className="tabs" aria-label={row.name}>
      {tabs.map(([name, label]) => (
        <Link
          key={name}
          to={`/packages/${row.id}${name === 'versions' ? '' : `/${name}`}`}
          aria-current={name === tab ? 'page' : undefined}
        >
          {label}
        </Link>
      ))}
    </nav>
  );
}

function headline(row: PackageSummary): string {
  const [newest] = row.versions;
  if (row.waiting)
    return `${row.name} ${row.waiting} waits to be packaged; ${newest?.version ?? 'nothing'} is attached.`;
  if (!newest)
    return row.delivery === 'in the image'
      ? `${row.name} is part of the image.`
      : `${row.name} is not packaged.`;
  const attached = row.versions.filter((version) => version.usedBy.length > 0);
  if (attached.length === 0) return `${row.name} ${newest.version} is attached on no pool.`;
  const versions = attached.map((version) => version.version).join(' and ');
  const verb = attached.length === 1 ? 'is' : row.sideBySide ? 'run side by side,' : 'are';
  return `${row.name} ${versions} ${verb} attached on ${poolsOf(row)}.`;
}

function Captures({ captures }: { captures: readonly Capture[] }) {
  const { zone } = useEstateTime();
  return (
    <>
      <h2 className="section-title">Captures</h2>
      <table className="table">
        <tbody>
          {captures.map((capture) => (
            <tr key={capture.id}>
              <td>
                <Link to={`/packages/capture/${capture.id}`}>
                  {capture.proposal.name} {capture.proposal.version}
                </Link>
              </td>
              <td>{day(capture.createdAt, zone)}</td>
              <td>{capture.state}</td>
              <td className="quiet">
                {capture.counts
                  ? `${count(capture.counts.added + capture.counts.changed)} changes kept, ${count(capture.counts.dropped)} dropped`
                  : ''}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
