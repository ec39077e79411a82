/** What hosts would make of it if it was begun now: how many, why not the others, and from when. */
import type { InstallForecast } from '@vatline/contract/installation';
import { useEstateTime } from '../shell/clock.ts';
import { moment, plural } from '../parts/format.ts';

type State = InstallForecast['hosts'][number]['state'];

const tones: Record<State, string> = {
  'to install': 'good',
  'detected already': 'calm',
  'not applicable': 'attention',
};

/** Hosts that are told for each reason. */
const SHOWN = 4;

export function ForecastAnswer({ forecast }: { forecast: InstallForecast }) {
  const { zone } = useEstateTime();
  const from = forecast.hosts.find((host) => host.from !== null)?.from;
  return (
    <>
      <h2>If it was begun now</h2>
      {forecast.hosts.length === 0 && <p className="quiet">No host has such a name.</p>}
      {grouped(forecast).map(({ state, why, hosts }) => (
        <div key={`${state} ${why}`} className="trial">
          <b className={tones[state]}>
            {state}: {plural(hosts.length, 'host')}
          </b>
          {why && <div>{why}</div>}
          <div className="mono quiet">
            {hosts.slice(0, SHOWN).join(', ')}
            {hosts.length > SHOWN && ` and ${hosts.length - SHOWN} more`}
          </div>
        </div>
      ))}
      {forecast.order.length > 1 && <p>In this order: {forecast.order.join(', then ')}.</p>}
      {from && <p className="quiet">Agents begin at their first check from {moment(from, zone)} on.</p>}
    </>
  );
}

/** Hosts that the same is true of, the most first. */
function grouped({ hosts }: InstallForecast): { state: State; why: string; hosts: string[] }[] {
  const groups = new Map<string, { state: State; why: string; hosts: string[] }>();
  for (const { host, state, why } of hosts) {
    const text = why.join('; ');
    const key = `${state} ${text}`;
    const group = groups.get(key);
    if (group) group.hosts.push(host);
    else groups.set(key, { state, why: text, hosts: [host] });
  }
  const order: State[] = ['to install', 'not applicable', 'detected already'];
  return [...groups.values()].sort(
    (a, b) => order.indexOf(a.state) - order.indexOf(b.state) || b.hosts.length - a.hosts.length,
  );
}
