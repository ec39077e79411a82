/** Two versions side by side: the figure first, then what differs, by kind. */
import { Input, Select } from 'antd';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import type { Comparison, LineDetail } from '@vatline/contract/image';
import { countOf } from '@vatline/core/image/compare-versions';
import type { EntryKind } from '@vatline/core/image/inventory';
import { api, problemOf } from '../shell/api.ts';
import { DyeChip } from '../parts/dye-chip.tsx';
import { ProblemNote } from '../parts/field.tsx';
import { count, size } from '../parts/format.ts';

export function CompareTab({ line }: { line: LineDetail }) {
  const [search, setSearch] = useSearchParams();
  const [newest, second] = line.versions;
  const to = search.get('to') ?? newest?.id ?? '';
  const from = search.get('from') ?? second?.id ?? '';
  const { data, error, isFetching } = api.useCompareVersionsQuery(
    { query: { from, to } },
    { skip: !from || !to },
  );
  if (!newest || !second)
    return <p className="quiet">A comparison needs two versions; this line has {line.versions.length}.</p>;
  const pick = (label: string, value: string, field: 'from' | 'to') => (
    <Select
      aria-label={label}
      style={{ width: 190 }}
      value={value}
      onChange={(id) => setSearch({ from, to, [field]: id })}
      options={line.versions.map((version) => ({
        value: version.id,
        label: <DyeChip name={version.dye} number={version.number} note={version.state} />,
      }))}
    />
  );
  return (
    <>
      <div className="row" style={{ margin: '8px 0 14px' }}>
        {pick('From version', from, 'from')} <span aria-hidden>⟶</span> {pick('To version', to, 'to')}
        {isFetching && <span className="quiet">comparing</span>}
      </div>
      <ProblemNote problem={problemOf(error)} />
      {data && <Differences comparison={data} />}
    </>
  );
}

function Differences({ comparison }: { comparison: Comparison }) {
  const [text, setText] = useState('');
  const change = comparison.sizeChange;
  return (
    <>
      <h2 className="figure">
        {comparison.headline}
        {change !== 0 && (
          <span className="quiet">
            , {change > 0 ? '+' : ''}
            {size(change)}
          </span>
        )}
      </h2>
      {!comparison.equal && (
        <Input
          style={{ width: 260, margin: '8px 0' }}
          placeholder="name or value"
          aria-label="Filter differences"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      )}
      {comparison.groups
        .filter((group) => group.items.length > 0)
        .map((group) => (
          <Group key={group.kind} group={group} text={text.toLowerCase()} />
        ))}
      <p className="quiet" style={{ marginTop: 10 }}>
        Unchanged:{' '}
        {comparison.groups
          .filter((group) => group.same > 0)
          .map((group) => countOf(group.kind as EntryKind, group.same))
          .join(', ')}
        .
      </p>
    </>
  );
}

const SHOWN = 200;

function Group({ group, text }: { group: Comparison['groups'][number]; text: string }) {
  const items = group.items.filter((item) =>
    `${item.name} ${item.before} ${item.after}`.toLowerCase().includes(text),
  );
  if (items.length === 0) return null;
  return (
    <section>
      <h3 className="section-title">{countOf(group.kind as EntryKind, group.items.length)}</h3>
      <table className="table compare-table">
        <tbody>
          {items.slice(0, SHOWN).map((item) => (
            <tr key={item.name}>
              <td className={item.change === 'removed' ? 'trouble' : 'good'}>
                {{ added: '+', removed: '−', changed: '~' }[item.change]}
              </td>
              <td className={group.kind === 'file' ? 'mono' : ''}>{item.name}</td>
              <td className="quiet mono">{item.before}</td>
              <td className="mono">{item.after}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {items.length > SHOWN && (
        <p className="quiet">and {count(items.length - SHOWN)} more; filter to see them</p>
      )}
    </section>
  );
}
