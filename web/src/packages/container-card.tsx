import { Button } from 'antd';
import type { PackageVersion } from '@vatline/contract/package';
import { api, problemOf } from '../shell/api.ts';
import { useEstateTime } from '../shell/clock.ts';
import { ProblemNote } from '../parts/field.tsx';
import { count, day, plural, size } from '../parts/format.ts';

/** One container: its real size, what opens it, where it is attached; verify, download, hold. */
export function ContainerCard({ version }: { version: PackageVersion }) {
  const { zone } = useEstateTime();
  const [verify, verified] = api.useVerifyMutation();
  const [setState, setting] = api.useSetPackageStateMutation();
  const share = version.containerBytes / version.sizeBytes;
  return (
    <section className="container-card" aria-label={`${version.name} ${version.version}`}>
      <div className="spread">
        <span>
          <b>
            {version.name} {version.version}
          </b>{' '}
          <span className={version.state === 'live' ? 'good' : 'attention'}>{version.state}</span>
        </span>
        <span className="row">
          <Button
            size="small"
            loading={verified.isLoading}
            onClick={() => void verify({ params: { id: version.id } })}
          >
            Verify
          </Button>
          <Button size="small" href={`/api/v1/package-versions/${version.id}/download`}>
            Download
          </Button>
          <Button
            size="small"
            onClick={() =>
              void setState({
                params: { id: version.id },
                body: { state: version.state === 'live' ? 'held' : 'live' },
              })
            }
          >
            {version.state === 'live' ? 'Hold' : 'Offer'}
          </Button>
        </span>
      </div>
      <dl className="facts">
        <dt>Container</dt>
        <dd title={`${count(version.containerBytes)} bytes`}>
          OCI image layout, {size(version.containerBytes)}: {Math.round(share * 100)} % of{' '}
          {size(version.sizeBytes)} in {plural(version.files, 'file')}
        </dd>
        <dt>Digest</dt>
        <dd className="mono">sha256:{version.digest}</dd>
        <dt>Opens with</dt>
        <dd>{version.entryPoints.map((entry) => `${entry.name} (${entry.path})`).join(', ')}</dd>
        <dt>Attached on</dt>
        <dd>{version.usedBy.join(', ') || 'no pool'}</dd>
        <dt>Built</dt>
        <dd>{day(version.builtAt, zone)}</dd>
      </dl>
      <ProblemNote problem={problemOf(verified.error ?? setting.error)} />
      {verified.data && (
        <div className="verified" role="status">
          <b className={verified.data.holds ? 'good' : 'trouble'}>
            {verified.data.holds ? 'Everything holds' : 'It does not hold'}
          </b>
          <ul>
            {verified.data.findings.map((finding) => (
              <li key={finding.what} className={finding.holds ? 'quiet' : 'trouble'}>
                {finding.what}
              </li>
            ))}
          </ul>
        </div>
      )}
    </section>
  );
}
