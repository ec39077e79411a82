/** What is another in one blend than in another: the image, each package down to its files, and what it takes. */
import { Button, Select } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router';
import type { BlendComparison, PoolBlend } from '@vatline/contract/blends';
import { VersionDifference } from '../../packages/containers/compare-versions.tsx';
import { blendsApi } from '../../api/blends.ts';
import { problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { capital, plural } from '../../parts/format.ts';
import { needInWords } from './needs-in-words.ts';

interface Pair {
  readonly from: string;
  readonly to: string;
}

interface Props {
  readonly rows: readonly PoolBlend[];
  readonly pair: Pair;
  readonly onChange: (pair: Pair) => void;
}

export function BlendDifference({ rows, pair, onChange }: Props) {
  const { data, error } = blendsApi.useBlendComparisonQuery({
    params: { id: pair.to },
    query: { with: pair.from },
  });
  const options = rows.map(({ blend }) => ({
    value: blend.id,
    label: `blend ${blend.number}, ${blend.line} ${blend.imageNumber}`,
  }));
  const choice = (label: string, field: keyof Pair) => (
    <Select
      size="small"
      style={{ width: 255 }}
      aria-label={label}
      value={pair[field]}
      options={options}
      onChange={(id) => onChange({ ...pair, [field]: id })}
    />
  );
  return (
    <section aria-label="What is another">
      <h2 className="section-title">What is another</h2>
      <div className="row">
        <span>From</span> {choice('From', 'from')}
        <span>to</span> {choice('To', 'to')}
        <Button size="small" onClick={() => onChange({ from: pair.to, to: pair.from })}>
          Turn round
        </Button>
      </div>
      <ProblemNote problem={problemOf(error)} />
      {data && <Difference key={`${pair.from} ${pair.to}`} comparison={data} />}
    </section>
  );
}

function Difference({ comparison }: { readonly comparison: BlendComparison }) {
  const { headline, image, packages, need, to } = comparison;
  const changed = new Set(packages.map((row) => row.to?.id));
  const same = to.packages.filter(({ id }) => !changed.has(id)).map((row) => `${row.name} ${row.version}`);
  return (
    <>
      <p className="strong what-it-takes">
        {need === 'nothing' ? `${capital(headline)}.` : needInWords(comparison)}
      </p>
      <table className="table">
        <tbody>
          {image && (
            <tr>
              <td>image</td>
              <td>
                {image.from.line} {image.from.number} to {image.to.line} {image.to.number}
              </td>
              <td className="number">
                <Link
                  to={`/images/${image.lineId}/compare?from=version:${image.from.id}&to=version:${image.to.id}`}
                >
                  file by file
                </Link>
              </td>
            </tr>
          )}
          {packages.map((row) => (
            <PackageRow key={`${row.from?.id ?? ''} ${row.to?.id ?? ''}`} row={row} />
          ))}
        </tbody>
      </table>
      {same.length > 0 && (
        <p className="quiet">
          {plural(same.length, 'package')} the same: {same.join(', ')}.
        </p>
      )}
    </>
  );
}

function PackageRow({ row }: { readonly row: BlendComparison['packages'][number] }) {
  const [isOpen, setOpen] = useState(false);
  const { from, to, change } = row;
  const there = to ?? from;
  return (
    <>
      <tr>
        <td>{change}</td>
        <td>{packageInWords(row)}</td>
        <td className="number">
          {from && to ? (
            <button
              type="button"
              className="outline-button"
              aria-expanded={isOpen}
              onClick={() => setOpen(!isOpen)}
            >
              {isOpen ? 'Fold' : 'File by file'}
            </button>
          ) : (
            there && <Link to={`/packages/${there.packageId}`}>its contents</Link>
          )}
        </td>
      </tr>
      {isOpen && from && to && (
        <tr>
          <td colSpan={3}>
            <VersionDifference from={from.id} to={to.id} />
          </td>
        </tr>
      )}
    </>
  );
}

function packageInWords({ name, from, to }: BlendComparison['packages'][number]): string {
  const timing =
    from && to && from.timing !== to.timing ? `, attached ${to.timing} instead of ${from.timing}` : '';
  if (from && to) return `${name} ${from.version} to ${to.version}${timing}`;
  const there = to ?? from;
  return there ? `${name} ${there.version}, attached ${there.timing}` : name;
}
