/** The containers that were really built, side by side; one of them is what hosts get. */
import { Radio } from 'antd';
import type { PackageVersion } from '@vatline/contract/package';
import { formatNames } from '@vatline/core/container/formats';
import { packagesApi } from '../../api/packages.ts';
import { problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { count, size } from '../../parts/format.ts';
import { formatUses } from './container-formats.ts';

export function ContainerSizes({ version }: { version: PackageVersion }) {
  const [choose, { error }] = packagesApi.useChooseContainerMutation();
  const largest = Math.max(version.sizeBytes, ...version.containers.map((one) => one.bytes));
  const canChange = version.state === 'draft' || version.state === 'verified';
  return (
    <>
      <table className="table container-sizes">
        <thead>
          <tr>
            <th colSpan={2}>Container</th>
            <th className="number">Size</th>
            <th className="number">Built in</th>
          </tr>
        </thead>
        <tbody>
          {version.containers.map((one) => (
            <tr key={one.format}>
              <td title={formatUses[one.format]}>
                <Radio
                  checked={one.format === version.format}
                  disabled={!canChange}
                  onChange={() => void choose({ params: { id: version.id }, body: { format: one.format } })}
                >
                  {formatNames[one.format]}
                </Radio>
              </td>
              <td className="size-cell">
                <span className="size-bar" style={{ width: `${(100 * one.bytes) / largest}%` }} aria-hidden />
              </td>
              <td className="number" title={`${count(one.bytes)} bytes`}>
                {size(one.bytes)}, {Math.round((100 * one.bytes) / version.sizeBytes)} %
              </td>
              <td className="number">{one.seconds.toFixed(one.seconds < 10 ? 2 : 0)} s</td>
            </tr>
          ))}
        </tbody>
      </table>
      <ProblemNote problem={problemOf(error)} />
    </>
  );
}
