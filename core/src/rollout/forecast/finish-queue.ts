/** Hosts at work by when they are finished: a binary heap over two arrays, since a forecast asks it millions of times. */
import type { Instant } from '../../time/instant.ts';

export class FinishQueue {
  private readonly times: Instant[] = [];
  private readonly hosts: number[] = [];

  get size(): number {
    return this.times.length;
  }

  /** When the first is finished; infinite when none is at work. */
  get next(): Instant {
    return this.times[0] ?? Infinity;
  }

  push(host: number, time: Instant): void {
    const { times, hosts } = this;
    let at = times.length;
    times.push(time);
    hosts.push(host);
    while (at > 0) {
      const above = (at - 1) >> 1;
      if ((times[above] as number) <= time) break;
      times[at] = times[above] as number;
      hosts[at] = hosts[above] as number;
      at = above;
    }
    times[at] = time;
    hosts[at] = host;
  }

  /** Takes the host that is finished first; there must be one. */
  pop(): number {
    const { times, hosts } = this;
    const first = hosts[0] as number;
    const time = times.pop() as number;
    const host = hosts.pop() as number;
    if (times.length > 0) this.sink(host, time);
    return first;
  }

  private sink(host: number, time: Instant): void {
    const { times, hosts } = this;
    let at = 0;
    for (;;) {
      let below = 2 * at + 1;
      if (below >= times.length) break;
      if (below + 1 < times.length && (times[below + 1] as number) < (times[below] as number)) below++;
      if ((times[below] as number) >= time) break;
      times[at] = times[below] as number;
      hosts[at] = hosts[below] as number;
      at = below;
    }
    times[at] = time;
    hosts[at] = host;
  }
}
