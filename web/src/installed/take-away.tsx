/** Taking an application away from its hosts: from how many, and where it stays. */
import { Button } from 'antd';
import type { InstallationRow } from '@vatline/contract/installation';
import { installedApi } from '../api/installed.ts';
import { problemOf } from '../api/problem.ts';
import { ProblemNote } from '../parts/field.tsx';
import { plural } from '../parts/format.ts';

export function TakeAway({ row, isChanged }: { row: InstallationRow; isChanged: boolean }) {
  const params = { id: row.id };
  const { data } = installedApi.useRemovalForecastQuery({ params });
  const [takeAway, { error, isLoading }] = installedApi.useTakeAwayMutation();
  if (!data) return null;
  const removed = data.hosts.filter((host) => host.state === 'to remove').length;
  const needed = data.hosts.filter((host) => host.state === 'needed');
  const by = [...new Set(needed.flatMap((host) => host.by))];
  return (
    <>
      <h2>Take it away</h2>
      <p>
        {removed + needed.length === 0
          ? `It is on none of ${plural(data.hosts.length, 'host')}.`
          : `It is on ${removed + needed.length} of ${plural(data.hosts.length, 'host')}.`}
        {needed.length > 0 &&
          ` On ${needed.length} it stays, since ${by.join(' and ')} ${by.length === 1 ? 'needs' : 'need'} it.`}
      </p>
      {removed > 0 && (
        <Button
          style={{ marginTop: 8 }}
          disabled={isChanged || row.activeJob !== null}
          loading={isLoading}
          onClick={() => void takeAway({ params })}
        >
          Remove it from {plural(removed, 'host')}
        </Button>
      )}
      {isChanged && removed > 0 && <p className="quiet small">Keep the changes first.</p>}
      <ProblemNote problem={problemOf(error)} />
    </>
  );
}
