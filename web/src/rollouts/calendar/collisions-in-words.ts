/** What collides, as a person says it: what meets what, when, and what comes of it. */
import type { Planned } from '@vatline/contract/planned';
import type { Collision } from '@vatline/core/rollout/calendar/collisions';
import { count, moment, time } from '../../parts/format.ts';

export interface CollisionWords {
  readonly title: string;
  readonly detail: string;
}

/** `planned` holds at least one window of everything that collides. */
export function collisionInWords(
  collision: Collision,
  planned: readonly Planned[],
  zone: string,
): CollisionWords {
  const names = collision.of.map((of) => nameOf(planned.find((one) => one.of === of)));
  const [first = '', second = ''] = names;
  switch (collision.kind) {
    case 'one pool':
      return {
        title: `${first} and ${second} are planned for the same time`,
        detail: `From ${moment(collision.at, zone)}. A pool has one rollout at a time: the second waits until the first has ended.`,
      };
    case 'datastore':
      return {
        title: `${listed(names)} start hosts on ${collision.store} together`,
        detail:
          `From ${moment(collision.at, zone)} until ${time(collision.until, zone)} up to ${count(collision.operations)} operations a second are asked of it, ` +
          `and it has ${count(collision.free)} left; starts take longer than the forecasts say.`,
      };
    case 'hypervisor':
      return {
        title: `${listed(names)} make hosts on ${collision.store} together`,
        detail:
          `From ${moment(collision.at, zone)} until ${time(collision.until, zone)} up to ${count(collision.operations)} hosts would be at work, ` +
          `and ${collision.store} makes ${count(collision.free)} at a time; the rollout that began later waits, and is done later than its forecast says.`,
      };
    case 'behind a cut':
      return {
        title: `${second} comes after ${first}`,
        detail: `It begins ${moment(collision.at, zone)} and brings the version before that one, so that its hosts are behind as soon as they are done.`,
      };
    case 'next cut':
      return {
        title: `${first} is not done before the next cut`,
        detail: `It begins ${moment(collision.at, zone)}; what is left when the next version is cut never gets this one. More at a time, or more nights, would do.`,
      };
  }
}

/** `contact-centre to version 14`, `contact-centre after its cut`, `the cut of Staff desktop`. */
export function nameOf(one: Planned | undefined): string {
  if (!one) return 'something';
  if (one.kind === 'cut') return one.label.replace(/^cut /, 'the cut of ');
  if (one.kind === 'after a cut') return `${one.label} after its cut`;
  const ring = one.kind === 'ring' ? ', a ring that waits,' : '';
  return one.version ? `${one.label}${ring} to version ${one.version.number}` : `${one.label}${ring}`;
}

function listed(names: readonly string[]): string {
  if (names.length < 2) return names[0] ?? '';
  const shown = names.slice(0, 3);
  const rest = names.length - shown.length;
  return rest > 0
    ? `${shown.join(', ')} and ${rest} more`
    : `${shown.slice(0, -1).join(', ')} and ${shown.at(-1) ?? ''}`;
}
