/** What there is to know of one row: its values before and after, what changed in its text, and the rule it could become. */
import { Button } from 'antd';
import type { Capture } from '@vatline/contract/capture';
import { entryName, valueFields, type Entry } from '@vatline/core/inventory/entry';
import type { LeafRow } from '@vatline/core/package/shown-difference';
import { count } from '../../parts/format.ts';
import { RuleFromRow } from './rule-from-row.tsx';
import { TextChange, ValueChange } from './text-change.tsx';
import type { DifferenceCalls } from './use-difference.ts';

interface Props {
  readonly capture: Capture;
  readonly calls: DifferenceCalls;
  readonly row: LeafRow;
  readonly onClose: () => void;
}

export function RowDetail({ capture, calls, row, onClose }: Props) {
  const { leaf, entryClass, owner } = row;
  const { entry, before, change, rule, note } = leaf;
  return (
    <section className="row-detail" aria-label={entryName(entry)}>
      <div className="spread">
        <b className="mono row-title">{entryName(entry)}</b>
        <Button size="small" onClick={onClose}>
          Close
        </Button>
      </div>
      <p className="quiet">
        {entryClass}, {change}
        {owner && ` by ${owner}`}
        {rule && `; dropped by the rule “${rule}”: ${note}`}
      </p>
      <dl className="facts">
        {valueFields(entry.kind).map((field) => (
          <Value key={field} field={field} entry={entry} before={before} />
        ))}
      </dl>
      {entry.kind === 'file' && change === 'changed' && (
        <TextChange captureId={capture.id} path={entry.path} />
      )}
      <RuleFromRow capture={capture} calls={calls} leaf={leaf} />
    </section>
  );
}

function Value({
  field,
  entry,
  before,
}: {
  readonly field: string;
  readonly entry: Entry;
  readonly before: Entry | undefined;
}) {
  const of = (one: Entry) => shown((one as unknown as Record<string, string | number>)[field]);
  const now = of(entry);
  const old = before && of(before);
  return (
    <>
      <dt>{field}</dt>
      <dd className="mono">
        {old === undefined || old === now ? now : <ValueChange before={old} after={now} />}
      </dd>
    </>
  );
}

function shown(value: string | number | undefined): string {
  if (typeof value === 'number') return count(value);
  return value === undefined || value === '' ? '(empty)' : value;
}
