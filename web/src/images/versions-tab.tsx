import { Select } from 'antd';
import { Link } from 'react-router';
import { versionStates, type ImageVersion, type LineDetail } from '@vatline/contract/image';
import { api, problemOf } from '../shell/api.ts';
import { useEstateTime } from '../shell/clock.ts';
import { DyeChip } from '../parts/dye-chip.tsx';
import { ProblemNote } from '../parts/field.tsx';
import { day, plural, relative, size } from '../parts/format.ts';

/** Every version of a line: its dye, date, size, state, where it is in use. */
export function VersionsTab({ line }: { line: LineDetail }) {
  const [setState, { error }] = api.useSetVersionStateMutation();
  const { now, zone } = useEstateTime();
  const before = (version: ImageVersion) => line.versions.find((other) => other.number < version.number);
  if (line.versions.length === 0)
    return <p className="quiet">No version has been cut yet. What is cut here can be rolled out to pools.</p>;
  return (
    <>
      <ProblemNote problem={problemOf(error)} />
      <table className="table">
        <thead>
          <tr>
            <th>Version</th>
            <th>Cut</th>
            <th className="number">Size</th>
            <th>State</th>
            <th>Runs on</th>
            <th>Note</th>
            <th>
              <span className="sr-only">Compare</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {line.versions.map((version) => (
            <tr key={version.id}>
              <td>
                <DyeChip name={version.dye} number={version.number} />
              </td>
              <td title={relative(version.cutAt, now)}>{day(version.cutAt, zone)}</td>
              <td className="number" title={`${version.sizeBytes.toLocaleString('en-GB')} bytes`}>
                {size(version.sizeBytes)}
              </td>
              <td>
                <Select
                  size="small"
                  aria-label={`State of version ${version.number}`}
                  value={version.state}
                  style={{ width: 104 }}
                  options={versionStates.map((state) => ({ value: state, label: state }))}
                  onChange={(state) => void setState({ params: { id: version.id }, body: { state } })}
                />
              </td>
              <td>
                {version.usedBy.map((use) => `${use.pool} ${plural(use.hosts, 'host')}`).join(', ') || (
                  <span className="quiet">nowhere</span>
                )}
              </td>
              <td className="quiet">{version.note}</td>
              <td>
                {before(version) && (
                  <Link to={`/images/${line.id}/compare?from=${before(version)?.id}&to=${version.id}`}>
                    compare
                  </Link>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
