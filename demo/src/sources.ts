/** What the library builds from: media, its update feed, agents. */
import type { BuildSources } from '@vatline/core/image/sources';
import { hash32 } from '@vatline/core/random';
import { HOUR, type Instant } from '@vatline/core/time/instant';
import { root } from './root.ts';

export const TOOLS_VERSION = '12.1';
const AGENT_VERSION = '4.8';
const FIRST_RELEASE = { year: 2026, month: 6 };
const TUESDAY = 2;
/** A hole that could not wait for the month. */
const outOfBand = { release: '2027-03b', at: Date.UTC(2027, 2, 25, 18) };

export function mediaDigest(system: string): string {
  let digest = '';
  for (let i = 0; i < 8; i++) digest += hash32(`${system} media ${i}`).toString(16).padStart(8, '0');
  return digest;
}

/** The feed has a release on the first Tuesday of each month, at 18:00 UTC, and one out of band. */
export function newestRelease(now: Instant): string {
  let newest = '';
  for (let n = 0; ; n++) {
    const month = new Date(Date.UTC(FIRST_RELEASE.year, FIRST_RELEASE.month - 1 + n, 1));
    const toTuesday = (TUESDAY - month.getUTCDay() + 7) % 7;
    if (month.getTime() + toTuesday * 24 * HOUR + 18 * HOUR > now) break;
    newest = month.toISOString().slice(0, 7);
  }
  return now >= outOfBand.at && outOfBand.release > newest ? outOfBand.release : newest;
}

export function buildSources(now: Instant): BuildSources {
  const media = (system: string, ...editions: string[]) => ({
    system,
    editions,
    digest: mediaDigest(system),
  });
  return {
    media: [
      media('Desktop OS 24.1', 'workstation'),
      media('Desktop OS 24.2', 'multi-session', 'single session', 'workstation'),
    ],
    release: newestRelease(now),
    agentVersion: AGENT_VERSION,
    toolsVersion: TOOLS_VERSION,
    buildUnit: `OU=Build,OU=Hosts,${root}`,
  };
}
