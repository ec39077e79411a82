/** How a host gets to another blend: chosen when its turn comes, by what it needs and how it stands. */
import type { HostStanding } from '../../pool/service-state.ts';
import type { HostNeed } from './need.ts';

export const hostWays = ['rebuild', 'attach', 'attach in service'] as const;
export type HostWay = (typeof hostWays)[number];

/**
 * A host that is on and well stays in service: its agent attaches at its next check, who signs in
 * from then on gets what is new, and nobody has to leave. One that is off, or that failed, has nobody
 * on it and is attached out of service. A remake makes every host anew.
 */
export function wayOf(need: HostNeed, { power, work }: HostStanding, isRemake: boolean): HostWay {
  if (isRemake || need === 'rebuild') return 'rebuild';
  return power === 'on' && work === 'none' ? 'attach in service' : 'attach';
}
