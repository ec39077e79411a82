/** Every version of a line: dye, date, size, state with who set it, what needs it; and what may go. */
import { Button, Select } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router';
import { type ImageVersion, type LineDetail } from '@vatline/contract/image';
import { versionStates, type VersionState } from '@vatline/core/image/version-state';
import { planRetention } from '@vatline/core/image/retention';
import { imagesApi } from '../../api/images.ts';
import { problemOf } from '../../api/problem.ts';
import { useEstateTime, type EstateTime } from '../../shell/clock.ts';
import { ActsAs } from '../../parts/acts-as.tsx';
import { DyeChip } from '../../parts/dye-chip.tsx';
import { ProblemNote } from '../../parts/field.tsx';
import { day, moment, plural, relative, size } from '../../parts/format.ts';
import { KeepNewest } from '../../parts/keep-newest.tsx';
import { ImportVersion } from './import-version.tsx';

export function VersionsTab({ line }: { line: LineDetail }) {
  const [setState, { error }] = imagesApi.useSetVersionStateMutation();
  const time = useEstateTime();
  if (line.versions.length === 0)
    return (
      <>
        <p className="quiet">No version has been cut yet. What is cut here can be rolled out to pools.</p>
        <ImportVersion line={line} />
      </>
    );
  return (
    <>
      <ActsAs note="An approver approves what others have tested." />
      <ProblemNote problem={problemOf(error)} />
      <table className="table">
        <thead>
          <tr>
            <th>Version</th>
            <th>Cut</th>
            <th className="number">Size</th>
            <th>State</th>
            <th>Needed by</th>
            <th>
              <span className="sr-only">What can be done</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {line.versions.map((version) => (
            <VersionRow
              key={version.id}
              version={version}
              before={line.versions.find((other) => other.number < version.number)}
              time={time}
              onState={(state) => void setState({ params: { id: version.id }, body: { state } })}
            />
          ))}
        </tbody>
      </table>
      <Retention line={line} />
      <ImportVersion line={line} />
    </>
  );
}

interface RowProps {
  readonly version: ImageVersion;
  readonly before: ImageVersion | undefined;
  readonly time: EstateTime;
  readonly onState: (state: VersionState) => void;
}

function VersionRow({ version, before, time: { now, zone }, onState }: RowProps) {
  return (
    <tr>
      <td>
        <DyeChip name={version.dye} number={version.number} />
        <div className="quiet small unbroken">
          <MadeBy version={version} />
        </div>
      </td>
      <td className="unbroken" title={relative(version.cutAt, now)}>
        {day(version.cutAt, zone)}
      </td>
      <td className="number unbroken" title={`${version.sizeBytes.toLocaleString('en-GB')} bytes`}>
        {size(version.sizeBytes)}
      </td>
      <td>
        <Select
          size="small"
          aria-label={`State of version ${version.number}`}
          value={version.state}
          style={{ width: 104 }}
          options={versionStates.map((state) => ({ value: state, label: state }))}
          onChange={onState}
        />
        <SetBy version={version} zone={zone} />
      </td>
      <td className="small">
        {version.neededBy.join(', ') || <span className="quiet">nothing</span>}
        {version.note && <div className="quiet">{version.note}</div>}
      </td>
      <td className="small version-actions">
        {before && (
          <Link to={`/images/${version.lineId}/compare?from=version:${before.id}&to=version:${version.id}`}>
            compare
          </Link>
        )}
        <a href={`/api/v1/versions/${version.id}/bom`}>bill of materials</a>
        {version.recipeRevision > 0 && <Link to={`/images/new?from=${version.id}`}>start a line</Link>}
      </td>
    </tr>
  );
}

/** Where a version came from: the job that cut it by a recipe, or the machine it was made on elsewhere. */
function MadeBy({ version }: { readonly version: ImageVersion }) {
  const { recipeRevision, jobId, lineId, hardware } = version;
  if (recipeRevision === 0)
    return (
      <span
        title={hardware ? `${hardware.processors} processors, ${size(hardware.memoryBytes)} of memory` : ''}
      >
        made elsewhere
      </span>
    );
  const recipe = `recipe ${recipeRevision}`;
  return jobId === null ? recipe : <Link to={`/images/${lineId}/builds#${jobId}`}>{recipe}</Link>;
}

/** Who set the state last; all changes on hover. */
function SetBy({ version, zone }: { version: ImageVersion; zone: string }) {
  const [last] = version.changes;
  if (!last) return null;
  const all = version.changes
    .map((change) => `${change.state} by the ${change.by}, ${moment(change.at, zone)}`)
    .join('\n');
  return (
    <div className="small quiet" title={all}>
      {last.by}, {day(last.at, zone)}
    </div>
  );
}

const KEPT_AT_FIRST = 6;

/** What would go if only the newest were kept besides those that something needs, and the space that frees. */
function Retention({ line }: { line: LineDetail }) {
  const [keep, setKeep] = useState(line.keepVersions ?? KEPT_AT_FIRST);
  const [deleteVersions, deleting] = imagesApi.useDeleteVersionsMutation();
  const [setRetention, setting] = imagesApi.useSetRetentionMutation();
  const plan = planRetention(line.versions, keep);
  const going = plan.rows.filter((row) => row.goes).map((row) => row.version);
  const params = { id: line.id };
  const go = async () => {
    const { error } = await setRetention({ params, body: { keep } });
    if (error) return;
    await deleteVersions({ params, body: { versionIds: going.map((version) => version.id) } });
  };
  return (
    <section aria-label="Retention" style={{ marginTop: 20 }}>
      <h2 className="section-title">What may go</h2>
      <div className="row">
        <KeepNewest keep={keep} onChange={setKeep} />
      </div>
      <p>
        {plan.goes === 0 ? (
          'Then nothing goes.'
        ) : (
          <>
            Then <b>{plural(plan.goes, 'version')}</b> would go,{' '}
            {going.map((version) => version.number).join(', ')}, and <b>{size(plan.freedBytes)}</b> be freed.
          </>
        )}
      </p>
      {plan.goes > 0 && (
        <Button
          danger
          disabled={line.activeJob !== null}
          loading={deleting.isLoading}
          onClick={() => void go()}
        >
          Delete {plural(plan.goes, 'version')}
        </Button>
      )}
      <ProblemNote problem={problemOf(setting.error ?? deleting.error)} />
    </section>
  );
}
