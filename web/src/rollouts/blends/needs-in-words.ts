/** What hosts need to hold a blend, said. */
import type { BlendComparison, PoolBlend } from '@vatline/contract/blends';
import type { ForecastAnswer } from '@vatline/contract/rollout';
import { minutes, plural } from '../../parts/format.ts';

/** `rebuild 88, attach 8`; how many hosts go which way. */
export function needsInWords({ rebuild, attachOnly, settingsOnly }: PoolBlend['needs']): string {
  const parts = [
    rebuild > 0 ? `rebuild ${rebuild}` : '',
    attachOnly > 0 ? `attach ${attachOnly}` : '',
    settingsOnly > 0 ? `settings on ${settingsOnly}` : '',
  ].filter(Boolean);
  return parts.length === 0 ? 'nothing to do' : parts.join(', ');
}

/** What one host needs, and for how long. */
export function needInWords({ need, work }: Pick<BlendComparison, 'need' | 'work'>): string {
  if (!work) return '';
  const time = `about ${minutes(work.medianMinutes)} each, ${minutes(work.p90Minutes)} or less in 9 of 10 cases`;
  if (need === 'rebuild') return `A host is emptied and made anew: ${time}, and people have to leave it.`;
  const what = need === 'attach only' ? 'attaches and lets go of packages' : 'applies settings';
  return `A host’s agent ${what} while people work on: ${time}. Nobody has to leave.`;
}

/** `All 96 hosts of desk-staff run blend 3.` */
export function runningInWords(pool: string, hosts: number, on: number, number: number): string {
  if (hosts === 0) return `${pool} has no hosts yet.`;
  if (on === hosts)
    return `${hosts === 1 ? 'The one host' : `All ${hosts} hosts`} of ${pool} ${hosts === 1 ? 'runs' : 'run'} blend ${number}.`;
  return `${on} of ${plural(hosts, 'host')} of ${pool} run blend ${number}; ${hosts - on} ${hosts - on === 1 ? 'runs' : 'run'} another.`;
}

/** What is done to the hosts, where it is not the same for all of them or leaves people at their work. */
export function waysInWords({
  rebuild,
  attach,
  'attach in service': serving,
}: ForecastAnswer['ways']): string {
  if (serving === 0) return '';
  if (rebuild + attach === 0)
    return 'Only packages differ: agents attach them while people work on, and nobody has to leave.';
  return `${plural(serving, 'host')} only attach packages while people work on; ${rebuild + attach} are taken out of service.`;
}
