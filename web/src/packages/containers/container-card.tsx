import { Button } from 'antd';
import { Fragment, useState } from 'react';
import type { CheckFinding, PackageVersion } from '@vatline/contract/package';
import type { PackageState } from '@vatline/core/package/version-state';
import { jobsApi } from '../../api/jobs.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { day, longDay, plural, size } from '../../parts/format.ts';
import { JobCard } from '../../parts/job.tsx';
import { AttachTrial } from './attach-trial.tsx';
import { ContainerContents } from './container-contents.tsx';
import { ContainerSizes } from './container-sizes.tsx';
import { SigningBar } from '../trust/signing-bar.tsx';

const tones: Record<PackageState, string> = {
  draft: 'quiet',
  verified: 'calm',
  live: 'good',
  held: 'attention',
  withdrawn: 'trouble',
};

/** One version: its containers, whether it can be trusted, where it is attached, and the next thing to do. */
export function ContainerCard({ version }: { version: PackageVersion }) {
  const { zone } = useEstateTime();
  const [isOpen, setOpen] = useState(false);
  const { signed } = version;
  return (
    <section className="container-card" aria-label={`${version.name} ${version.version}`}>
      <div className="spread">
        <span>
          <b>
            {version.name} {version.version}
          </b>{' '}
          <span className={tones[version.state]}>{version.state}</span>
        </span>
        <span className="row">
          <Button size="small" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
            Look inside
          </Button>
          <Button size="small" href={`/api/v1/package-versions/${version.id}/download`}>
            Download
          </Button>
          <Button size="small" href={`/api/v1/package-versions/${version.id}/bom`}>
            Bill of materials
          </Button>
        </span>
      </div>
      <ContainerSizes version={version} />
      <SigningBar version={version} />
      <VersionJob version={version} />
      {version.verified && (
        <Verified findings={version.verified.findings} at={day(version.verified.at, zone)} />
      )}
      <dl className="facts">
        <dt>Content</dt>
        <dd>
          {size(version.sizeBytes)} in {plural(version.files, 'file')}; built {day(version.builtAt, zone)}
        </dd>
        <dt>Digest</dt>
        <dd className="mono">sha256:{version.digest}</dd>
        <dt>Signed</dt>
        <dd>
          {signed
            ? `by ${signed.name} on ${day(signed.at, zone)}; its certificate runs out on ${longDay(signed.validTo, zone)}`
            : 'by nobody yet'}
        </dd>
        <dt>Opens with</dt>
        <dd>{version.entryPoints.map((entry) => `${entry.name} (${entry.path})`).join(', ')}</dd>
        <Says version={version} />
        <dt>Lies on</dt>
        <dd>{version.share ? <span className="mono">{version.share}</span> : 'no share yet'}</dd>
        <dt>Attached on</dt>
        <dd>{version.usedBy.join(', ') || 'no pool'}</dd>
        {version.share && (
          <>
            <dt>Sign-in</dt>
            <dd>
              <AttachTrial version={version} />
            </dd>
          </>
        )}
      </dl>
      {isOpen && <ContainerContents versionId={version.id} />}
    </section>
  );
}

/** What else the manifest says. */
function Says({ version: { details } }: { version: PackageVersion }) {
  const rows = [
    ['About', details.description],
    ['Licence', details.licence],
    ['Needs', details.dependencies?.map((one) => `${one.name} ${one.range}`).join(', ')],
    ['Variables', details.environment?.map((one) => `${one.name}=${one.value}`).join(', ')],
    [
      'On the host',
      details.attach &&
        `attached ${details.attach.timing}; if that fails, ${details.attach.onFailure}; sets ${plural(details.settings ?? 0, 'value')}`,
    ],
    ['Notes', details.notes],
  ] as const;
  return rows.map(([term, text]) =>
    text ? (
      <Fragment key={term}>
        <dt>{term}</dt>
        <dd>{text}</dd>
      </Fragment>
    ) : null,
  );
}

/** What is being done with it, or why that failed. */
function VersionJob({ version }: { version: PackageVersion }) {
  const { data } = jobsApi.useJobsQuery({ query: { subject: `package-version:${version.id}`, limit: 1 } });
  const job = version.activeJob ?? data?.[0];
  return job && job.state !== 'done' ? <JobCard job={job} open={job.state === 'failed'} /> : null;
}

function Verified({ findings, at }: { findings: readonly CheckFinding[]; at: string }) {
  const failed = findings.filter((finding) => !finding.holds);
  return (
    <div className="verified" role="status">
      <b className={failed.length === 0 ? 'good' : 'trouble'}>
        {failed.length === 0
          ? `Everything holds, ${at}`
          : `It does not hold: ${plural(failed.length, 'fault')}, ${at}`}
      </b>
      <ul>
        {[...failed, ...findings.filter((finding) => finding.holds)].map((finding) => (
          <li key={finding.what} className={finding.holds ? 'quiet' : 'trouble'}>
            {finding.what}
          </li>
        ))}
      </ul>
    </div>
  );
}
