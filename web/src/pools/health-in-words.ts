/** What is wrong with pools, in words, and where it is mended. */
import type { PoolHealth } from '@vatline/contract/pool/health';
import { count, plural } from '../parts/format.ts';

type Finding = PoolHealth['findings'][number];

export function healthHeadline(pools: readonly PoolHealth[]): string {
  if (pools.length === 0) return 'There is no pool yet.';
  const inTrouble = pools.filter((pool) => pool.findings.some((finding) => finding.tone === 'trouble'));
  const [worst] = inTrouble;
  if (!worst) return `All ${plural(pools.length, 'pool')} have seats for the next hours.`;
  const finding = worst.findings.find((one) => one.tone === 'trouble');
  const others = inTrouble.length - 1;
  const also =
    others > 0 ? `; ${plural(others, 'other pool')} ${others === 1 ? 'needs' : 'need'} somebody too` : '';
  return `${worst.name}: ${finding ? findingInWords(worst, finding).text : ''}${also}.`;
}

/** With the address at which it is mended. */
export function findingInWords(
  pool: PoolHealth,
  { what, count: n, hour }: Finding,
): { text: string; to: string } {
  const at = `/pools/${pool.id}`;
  const hosts = (state: string) => `${at}?state=${encodeURIComponent(state)}`;
  switch (what) {
    case 'no hosts':
      return { text: 'has no hosts', to: at };
    case 'seats':
      return { text: `${plural(n, 'seat')} too few at ${clockHour(hour)}`, to: at };
    case 'tight':
      return {
        text: `${n === 0 ? 'no seat' : `only ${plural(n, 'seat')}`} to spare at ${clockHour(hour)}`,
        to: at,
      };
    case 'failed':
      return { text: `${plural(n, 'host')} failed`, to: hosts('failed') };
    case 'silent':
      return { text: `${plural(n, 'agent')} silent`, to: hosts('silent') };
    case 'scratch':
      return { text: `${plural(n, 'scratch disk')} full within a day`, to: '/pools/streaming' };
    case 'off':
      return { text: `${count(n)} off`, to: hosts('off') };
    case 'held':
      return { text: `${count(n)} held back`, to: hosts('held') };
  }
}

function clockHour(hour: number | null): string {
  return `${String(hour ?? 0).padStart(2, '0')}:00`;
}
