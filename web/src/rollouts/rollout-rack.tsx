/** The rack of the station: rollouts under way first, then those that are over. */
import type { StagedSummary } from '@vatline/contract/rings/staged';
import type { Rollout } from '@vatline/contract/rollout';
import { ringsApi } from '../api/rings.ts';
import { rolloutsApi } from '../api/rollouts.ts';
import { useEstateTime } from '../shell/clock.ts';
import type { RackItem } from '../shell/station.tsx';
import { DyeChip } from '../parts/dye-chip.tsx';
import { day, nearDay } from '../parts/format.ts';

/** Undefined until all is known; a ring is in it while it is open. */
export function useRolloutRack(openId?: string): RackItem[] | undefined {
  const { data: rollouts } = rolloutsApi.useRolloutsQuery({});
  const { data: staged } = ringsApi.useStagedRolloutsQuery({});
  return rollouts && staged && rackItems(rollouts, staged, openId);
}

/** Those under way first. A ring stands in the rollout through rings that it is a part of, unless it is open. */
function rackItems(
  rollouts: readonly Rollout[],
  staged: readonly StagedSummary[],
  openId: string | undefined,
): RackItem[] {
  const shown = rollouts.filter((row) => row.partOf === null || row.id === openId);
  const all = [
    ...staged.map((row) => ({ row, item: stagedItem(row) })),
    ...shown.map((row) => ({ row, item: rolloutItem(row) })),
  ];
  const rank = (row: { readonly endedAt: number | null }) => (row.endedAt === null ? 0 : 1);
  return all
    .sort((a, b) => rank(a.row) - rank(b.row) || b.row.startedAt - a.row.startedAt)
    .map(({ item }) => item);
}

function rolloutItem(row: Rollout): RackItem {
  return { to: `/rollouts/${row.id}`, title: row.pool, mono: true, sub: <RackNote rollout={row} /> };
}

function stagedItem({ id, title, image, state, begun, rings }: StagedSummary): RackItem {
  const sub = (
    <>
      {image && <DyeChip name={image.dye} number={image.number} />}
      <span>
        ring {begun} of {rings}
      </span>
      <span>{state === 'under way' ? '' : state}</span>
    </>
  );
  return { to: `/rollouts/staged/${id}`, title, sub };
}

function RackNote({ rollout }: { rollout: Rollout }) {
  const { now, zone } = useEstateTime();
  const when =
    rollout.endedAt !== null
      ? day(rollout.endedAt, zone)
      : rollout.pausedAt !== null
        ? 'paused'
        : rollout.state === 'at work'
          ? 'at work'
          : rollout.nextWindow
            ? nearDay(rollout.nextWindow.start, now, zone)
            : '';
  return (
    <>
      <DyeChip name={rollout.to.dye} number={rollout.to.imageNumber} />
      <span>
        {rollout.done} of {rollout.hosts}
      </span>
      <span>{when}</span>
    </>
  );
}
