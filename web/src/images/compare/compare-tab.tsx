/** Two inventories side by side: the figure first, then what differs, by kind; as files; as a layer. */
import { Button, Input, Progress } from 'antd';
import { useEffect, useState } from 'react';
import { useSearchParams } from 'react-router';
import type { LineDetail } from '@vatline/contract/image';
import { countOf } from '@vatline/core/image/compare-versions';
import { download } from '../../parts/download.ts';
import { count, percent } from '../../parts/format.ts';
import { BomComparison } from './bom-comparison.tsx';
import type { ComparisonSummary, FoundGroup, InventorySource } from './compare-worker.ts';
import { DeltaPanel } from './delta-panel.tsx';
import { DifferenceGroup, signed } from './difference-group.tsx';
import { InventoryChoice } from './inventory-choice.tsx';
import type { LinePlan } from '../line-plan.ts';
import { useComparison } from './use-comparison.ts';

interface Props {
  readonly line: LineDetail;
  readonly plan: LinePlan;
}

export function CompareTab({ line, plan }: Props) {
  const [search, setSearch] = useSearchParams();
  const [newest, second] = line.versions;
  const machine = line.machine ? `machine:${line.id}` : '';
  const to = search.get('to') ?? (newest ? `version:${newest.id}` : machine);
  const from = search.get('from') ?? (second ? `version:${second.id}` : 'nothing');
  if (!to)
    return (
      <p className="quiet">
        There is nothing to compare yet: build a machine or cut a version, and it can be compared with any
        other.
      </p>
    );
  const choose = (field: 'from' | 'to') => (source: InventorySource) =>
    setSearch({ from, to, [field]: source });
  return (
    <>
      <div className="row" style={{ margin: '8px 0 14px' }}>
        <InventoryChoice label="From" value={from} line={line} plan={plan} onChange={choose('from')} />
        <span aria-hidden>⟶</span>
        <InventoryChoice label="To" value={to} line={line} plan={plan} onChange={choose('to')} />
        <Button onClick={() => setSearch({ from: to, to: from })}>Turn round</Button>
      </div>
      <Compared from={from} to={to} />
    </>
  );
}

function Compared({ from, to }: { readonly from: InventorySource; readonly to: InventorySource }) {
  const { summary, progress, error, calls } = useComparison(from, to);
  if (error)
    return (
      <div className="problem" role="alert">
        {error}
      </div>
    );
  if (!summary)
    return (
      <div style={{ maxWidth: 420 }} role="status">
        <Progress
          percent={Math.round((progress?.share ?? 0) * 100)}
          format={(share) => percent((share ?? 0) / 100)}
        />
        <span className="quiet">{progress?.what ?? 'reading'} both inventories</span>
      </div>
    );
  return <Differences key={`${from} ${to}`} summary={summary} from={from} to={to} calls={calls} />;
}

const SHOWN = 200;

interface DifferencesProps {
  readonly summary: ComparisonSummary;
  readonly from: InventorySource;
  readonly to: InventorySource;
  readonly calls: ReturnType<typeof useComparison>['calls'];
}

function Differences({ summary, from, to, calls }: DifferencesProps) {
  const [text, setText] = useState('');
  const [found, setFound] = useState<readonly FoundGroup[]>([]);
  useEffect(() => {
    let current = true;
    void calls()
      .find(text, SHOWN)
      .then((groups) => current && setFound(groups));
    return () => {
      current = false;
    };
  }, [calls, text]);
  const keep = async (form: 'csv' | 'json') => {
    const content = form === 'csv' ? await calls().csv() : await calls().json(from, to);
    download(`differences.${form}`, content, form === 'csv' ? 'text/csv' : 'application/json');
  };
  const versions = from.startsWith('version:') && to.startsWith('version:');
  const pair = { from: from.slice('version:'.length), to: to.slice('version:'.length) };
  return (
    <>
      <h2 className="figure">
        {summary.headline}
        {!summary.equal && (
          <span className="quiet" title={`${count(summary.sizeChange)} bytes`}>
            , {summary.sizeChange === 0 ? 'no larger and no smaller' : signed(summary.sizeChange)}
          </span>
        )}
      </h2>
      {!summary.equal && (
        <div className="row" style={{ margin: '8px 0' }}>
          <Input
            style={{ width: 260 }}
            placeholder="name or value"
            aria-label="Filter differences"
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
          <Button onClick={() => void keep('csv')}>Save as CSV</Button>
          <Button onClick={() => void keep('json')}>Save as JSON</Button>
        </div>
      )}
      {found.map((group) => (
        <DifferenceGroup key={group.kind} group={group} bytes={bytesOf(summary, group)} />
      ))}
      {!summary.equal && text !== '' && found.length === 0 && (
        <p className="quiet">No difference holds “{text}”.</p>
      )}
      <Unchanged summary={summary} />
      {versions && pair.from !== pair.to && (
        <>
          <DeltaPanel {...pair} />
          <BomComparison {...pair} />
        </>
      )}
    </>
  );
}

function bytesOf(summary: ComparisonSummary, { kind }: FoundGroup): number {
  return summary.groups.find((group) => group.kind === kind)?.bytes ?? 0;
}

function Unchanged({ summary }: { readonly summary: ComparisonSummary }) {
  const same = summary.groups.filter((group) => group.same > 0);
  if (same.length === 0) return null;
  return (
    <p className="quiet" style={{ marginTop: 10 }}>
      Unchanged: {same.map((group) => countOf(group.kind, group.same)).join(', ')}.
    </p>
  );
}
