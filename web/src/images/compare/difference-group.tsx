/** What differs of one kind: a row each, with sizes and their difference where it has any. */
import { countOf, type ComparedItem } from '@vatline/core/image/compare-versions';
import { changeSigns } from '../../parts/change-signs.ts';
import { count, size } from '../../parts/format.ts';
import type { FoundGroup } from './compare-worker.ts';

/** `+1.2 kB`, `−3 kB`. */
export function signed(bytes: number): string {
  return `${bytes > 0 ? '+' : ''}${size(bytes)}`;
}

export function DifferenceGroup({ group, bytes }: { readonly group: FoundGroup; readonly bytes: number }) {
  const sized = group.kind === 'file' || group.kind === 'application';
  return (
    <section aria-label={countOf(group.kind, 2)}>
      <h3 className="section-title spread">
        <span>{countOf(group.kind, group.count)}</span>
        {sized && bytes !== 0 && <span title={`${count(bytes)} bytes`}>{signed(bytes)}</span>}
      </h3>
      <table className="table compare-table">
        <tbody>
          {group.items.map((item) => (
            <tr key={`${item.change} ${item.name}`}>
              <td className={item.change === 'removed' ? 'trouble' : 'good'} title={item.change}>
                {changeSigns[item.change]}
              </td>
              <td className={group.kind === 'file' ? 'mono' : ''}>{item.name}</td>
              {group.kind === 'file' ? <FileSides item={item} /> : <Sides item={item} kind={group.kind} />}
              {sized && <Grown item={item} />}
            </tr>
          ))}
        </tbody>
      </table>
      {group.count > group.items.length && (
        <p className="quiet">and {count(group.count - group.items.length)} more; filter to see them</p>
      )}
    </section>
  );
}

function Sides({ item, kind }: { readonly item: ComparedItem; readonly kind: string }) {
  const face = ['link', 'registry', 'certificate'].includes(kind) ? 'mono' : '';
  return (
    <>
      <td className={`quiet ${face}`}>{item.before}</td>
      <td className={face}>{item.after}</td>
    </>
  );
}

/** A file's sizes; what it was called where it has moved. Its digests stand behind the sizes, on hover. */
function FileSides({ item }: { readonly item: ComparedItem }) {
  const [before, after] = item.sizes;
  if (item.change === 'moved')
    return (
      <>
        <td className="quiet mono">{item.before}</td>
        <td className="number unbroken">{after !== null && size(after)}</td>
      </>
    );
  return (
    <>
      <td className="number quiet unbroken" title={exactly(before, item.before)}>
        {before !== null && size(before)}
        {modeIn(item.before)}
      </td>
      <td className="number unbroken" title={exactly(after, item.after)}>
        {after !== null && size(after)}
        {modeIn(item.after)}
      </td>
    </>
  );
}

/** Of two that round to the same, what tells them apart. */
function Grown({ item }: { readonly item: ComparedItem }) {
  const [before, after] = item.sizes;
  const hasBoth = before !== null && after !== null;
  return (
    <td className="number unbroken" title={`${count(item.bytes)} bytes`}>
      {item.bytes !== 0 ? signed(item.bytes) : item.change === 'changed' && hasBoth ? 'as large' : ''}
    </td>
  );
}

function exactly(bytes: number | null, digest: string): string {
  return bytes === null ? '' : `${count(bytes)} bytes, digest ${digest}`;
}

/** `, mode 0755` of a file whose mode is another one on the other side. */
function modeIn(text: string): string {
  return /, mode \d+$/.exec(text)?.[0] ?? '';
}
