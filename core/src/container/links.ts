/** Links of an archive, judged by where they lead once all of them are there, not one by one. */
import { ok, refuse, type Result } from '../result.ts';

/** A system gives up following after so many links (ELOOP), so nothing beyond can be reached. */
const MOST_FOLLOWED = 40;
/** Parts looked at over all links: far more than any real tree has, half a second at the most. */
const MOST_PARTS = 5_000_000;

/**
 * Whether every link stays inside the root when links on its way are followed as a system follows
 * them. Targets that are not there, and circles, lead nowhere and are good. Paths are as
 * `safePath` gives them. Errors: the first link that leads outside; links too entangled to follow.
 */
export function linksStayInside(links: ReadonlyMap<string, string>): Result<undefined> {
  const walk = { links, left: MOST_PARTS };
  for (const [path, target] of links) {
    const end = follow(walk, path, target);
    if (end === 'outside') return refuse(path, `is a link that leads outside, to ${target}`);
    if (end === 'gave up') return refuse(path, 'is a link through too many others to be followed');
  }
  return ok(undefined);
}

interface Walk {
  readonly links: ReadonlyMap<string, string>;
  /** Parts that may still be looked at. */
  left: number;
}

function follow(walk: Walk, path: string, target: string): 'inside' | 'outside' | 'gave up' {
  let at = parentOf(path);
  let followed = 0;
  /** Parts still to go, the next one last. */
  const ahead: string[] = [];
  const goTo = (next: string) => {
    ahead.push(...next.split('/').reverse());
  };
  if (target.startsWith('/')) return 'outside';
  goTo(target);
  for (let part = ahead.pop(); part !== undefined; part = ahead.pop()) {
    if (--walk.left < 0) return 'gave up';
    if (part === '' || part === '.') continue;
    if (part === '..') {
      if (at === '') return 'outside';
      at = parentOf(at);
      continue;
    }
    const next = at === '' ? part : `${at}/${part}`;
    const through = walk.links.get(next);
    if (through === undefined) at = next;
    else if (through.startsWith('/')) return 'outside';
    else if (++followed > MOST_FOLLOWED) return 'inside';
    else goTo(through);
  }
  return 'inside';
}

function parentOf(path: string): string {
  return path.slice(0, Math.max(0, path.lastIndexOf('/')));
}
