/** What an action on hosts will do, in sentences. */
import type { HostAction } from '@vatline/core/pool/host-actions';
import type { EffectShown } from '@vatline/contract/pool/host-action';
import { count, plural, size } from '../../parts/format.ts';

export interface EffectWords {
  readonly said: string;
  /** Empty where no host is passed over. */
  readonly passedOver: string;
  /** Whether fewer seats than expected sessions are left. */
  readonly isShort: boolean;
}

/** Hosts that are named one by one; the others are counted. */
const NAMED = 3;

export function effectInWords(action: HostAction, effect: EffectShown): EffectWords {
  const seatsAfter = effect.seatsNow - effect.seatsLost;
  const isShort = effect.seatsLost > 0 && seatsAfter < effect.expectedNext;
  return { said: saidOf(action, effect, seatsAfter), passedOver: passedOverOf(effect), isShort };
}

function saidOf(
  action: HostAction,
  { hosts, sessionsEnded, dataLostBytes, seatsLost, expectedNext }: EffectShown,
  seatsAfter: number,
): string {
  if (hosts.length === 0) return 'Nothing would happen.';
  const first = beginnings[action](plural(hosts.length, 'host'));
  const ended =
    sessionsEnded > 0
      ? ` ${count(sessionsEnded)} ${sessionsEnded === 1 ? 'person is' : 'people are'} signed out at once.`
      : '';
  const lost = dataLostBytes > 0 ? ` ${size(dataLostBytes)} of personal data are gone for good.` : '';
  const seats =
    seatsLost === 0
      ? ''
      : ` ${count(Math.max(0, seatsAfter))} seats are left, and ${plural(expectedNext, 'session')} expected within the hour.`;
  return first + ended + lost + seats;
}

const beginnings: Record<HostAction, (hosts: string) => string> = {
  hold: (hosts) => `Nobody new comes to ${hosts}; whoever is there stays.`,
  'let in': (hosts) => `People may come to ${hosts} again.`,
  drain: (hosts) =>
    `Nobody new comes to ${hosts}; those who are there may stay for a while, and are signed out then.`,
  restart: (hosts) => `${hosts} start anew, ten at a time.`,
  'power off': (hosts) => `${hosts} are switched off, ten at a time, and cost no machine hours.`,
  'power on': (hosts) => `${hosts} are switched on, ten at a time.`,
  'keep a copy': (hosts) =>
    `The disks of ${hosts} are copied as they are, to be studied; people go on meanwhile.`,
  message: (hosts) => `Everybody on ${hosts} is shown a text.`,
  remove: (hosts) => `${hosts} and all that was made for them are taken away for good.`,
};

function passedOverOf({ passedOver }: EffectShown): string {
  if (passedOver.length === 0) return '';
  const named = passedOver.slice(0, NAMED).map(({ name, why }) => `${name} ${why}`);
  const others = passedOver.length - named.length;
  return `Passed over: ${named.join('; ')}${others > 0 ? `; and ${plural(others, 'other')}` : ''}.`;
}
