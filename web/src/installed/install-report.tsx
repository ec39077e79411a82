/** What came of an installation, host by host; those that need somebody first. */
import { useMemo, useState } from 'react';
import { Virtuoso } from 'react-virtuoso';
import { reportStates, type InstallReport } from '@vatline/contract/installation';
import { installedApi } from '../api/installed.ts';
import { useEstateTime } from '../shell/clock.ts';
import { Chips } from '../parts/chips.tsx';
import { count, moment } from '../parts/format.ts';

type State = InstallReport['state'];

const tones: Record<State, string> = {
  waiting: 'quiet',
  installed: 'good',
  removed: 'good',
  'not there': 'calm',
  needed: 'attention',
  'detected already': 'calm',
  'not applicable': 'attention',
  failed: 'trouble',
  cancelled: 'attention',
};

const order: readonly State[] = [
  'failed',
  'cancelled',
  'waiting',
  'needed',
  'installed',
  'removed',
  'not applicable',
  'detected already',
  'not there',
];
const ROW = 29;

export function InstallReportList({ id }: { id: string }) {
  const { zone, now } = useEstateTime();
  const { data } = installedApi.useInstallReportQuery({ params: { id } });
  const [only, setOnly] = useState<State>();
  const rows = useMemo(
    () =>
      (data ?? [])
        .filter((row) => only === undefined || row.state === only)
        .sort((a, b) => order.indexOf(a.state) - order.indexOf(b.state)),
    [data, only],
  );
  if (!data || data.length === 0) return null;
  const chips = reportStates.filter((state) => data.some((row) => row.state === state));
  return (
    <section aria-label="Installation report">
      <h2 className="section-title">Installation report</h2>
      <Chips
        label="Which hosts"
        style={{ marginBottom: 6 }}
        options={chips.map((state) => [
          state,
          `${state} ${count(data.filter((row) => row.state === state).length)}`,
        ])}
        chosen={only}
        onPress={(state) => setOnly(only === state ? undefined : state)}
      />
      <Virtuoso
        style={{ height: Math.min(340, rows.length * ROW + 2) }}
        tabIndex={0}
        data={rows}
        itemContent={(_i, row) => (
          <div className="install-row">
            <span className="mono">{row.host}</span>
            <span className={tones[row.state]}>{stateOf(row, now)}</span>
            <span className="number">{row.code ?? ''}</span>
            <span className="quiet clip" title={row.why}>
              {row.why}
            </span>
            <span className="number quiet">{moment(row.at, zone)}</span>
          </div>
        )}
      />
    </section>
  );
}

/** A host that waits is at work from the moment its agent began. */
function stateOf({ state, at }: InstallReport, now: number): string {
  if (state !== 'waiting') return state;
  return at <= now ? 'waiting or at work' : 'waiting until';
}
