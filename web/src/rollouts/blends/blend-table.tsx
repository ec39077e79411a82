/** The blends of a pool, newest first: what each brought, who runs it, and the way to it. */
import { Button, Tooltip } from 'antd';
import { useNavigate } from 'react-router';
import type { BlendUse, PoolBlend } from '@vatline/contract/blends';
import { DyeChip } from '../../parts/dye-chip.tsx';
import { moment, plural } from '../../parts/format.ts';
import { rowsOf, totalOf, type Paged } from '../../parts/paged-list.tsx';
import { useEstateTime } from '../../shell/clock.ts';
import { needsInWords } from './needs-in-words.ts';

interface Props {
  readonly use: BlendUse;
  readonly list: Paged<PoolBlend>;
  readonly chosen: { readonly from: string; readonly to: string } | undefined;
  readonly onChoose: (id: string) => void;
}

export function BlendTable({ use, list, chosen, onChoose }: Props) {
  const rows = rowsOf(list);
  const total = totalOf(list) ?? 0;
  return (
    <>
      <table className="table blend-table">
        <thead>
          <tr>
            <th>Blend</th>
            <th>What it brought</th>
            <th>Made</th>
            <th className="number">Hosts</th>
            <th>To get all there</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <BlendRow
              key={row.blend.id}
              row={row}
              use={use}
              isChosen={row.blend.id === chosen?.to}
              onChoose={onChoose}
            />
          ))}
        </tbody>
      </table>
      {rows.length < total && (
        <Button size="small" loading={list.isFetchingNextPage} onClick={() => list.fetchNextPage()}>
          Show {plural(total - rows.length, 'earlier one')}
        </Button>
      )}
    </>
  );
}

interface RowProps {
  readonly row: PoolBlend;
  readonly use: BlendUse;
  readonly isChosen: boolean;
  readonly onChoose: (id: string) => void;
}

function BlendRow({ row, use, isChosen, onChoose }: RowProps) {
  const { zone } = useEstateTime();
  const { blend, change, hosts, needs, refusal, isCurrent, isNext } = row;
  const state = isCurrent ? 'current' : isNext ? 'next' : '';
  return (
    <tr className={isChosen ? 'chosen' : ''}>
      <td>
        <button type="button" className="blend-name" onClick={() => onChoose(blend.id)}>
          <b>{blend.number}</b> <DyeChip name={blend.dye} number={blend.imageNumber} />
          {state && <span className="quiet small"> {state}</span>}
        </button>
      </td>
      <td>
        {change ??
          `the first: ${blend.line} ${blend.imageNumber}, ${plural(blend.packages.length, 'package')}`}
      </td>
      <td className="quiet">{moment(blend.madeAt, zone)}</td>
      <td className="number">{hosts === 0 ? <span className="quiet">none</span> : hosts}</td>
      <td className={refusal === null ? '' : 'trouble'}>{refusal ?? needsInWords(needs)}</td>
      <td className="number">
        <RollOut row={row} use={use} />
      </td>
    </tr>
  );
}

function RollOut({ row: { blend, needs, refusal }, use }: Pick<RowProps, 'row' | 'use'>) {
  const navigate = useNavigate();
  const isBack = use.current !== null && blend.number < use.current.number;
  if (needs.rebuild + needs.attachOnly + needs.settingsOnly === 0 || refusal !== null) return null;
  const button = (
    <Button
      size="small"
      disabled={use.next !== null}
      onClick={() => void navigate(`/rollouts/new?pool=${use.poolId}&blend=${blend.id}`)}
    >
      {isBack ? 'Go back' : 'Roll out'}
    </Button>
  );
  return use.next === null ? (
    button
  ) : (
    <Tooltip
      title={`Hosts of ${use.pool} are on their way to blend ${use.next.number}; that has to end first.`}
    >
      {button}
    </Tooltip>
  );
}
