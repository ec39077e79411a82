/** Hosts of a ring that wait for their turn: failed ones first, then the others in their order. */
import type { Candidate, Queue } from '../admission.ts';

/** A host whose turn it is, by its number among all hosts of the forecast. */
export interface Turn extends Candidate {
  readonly host: number;
  /** Where it stands among those that were not tried yet; -1 for one that is tried again. */
  readonly place: number;
}

export class HostQueue {
  private readonly order: Int32Array;
  private head = 0;
  /** Those that failed and are tried again: before all others, since they are out of service until then. */
  private readonly again: { readonly host: number; readonly tries: number }[] = [];

  /** So many hosts, numbered from `first`. */
  constructor(first: number, count: number) {
    this.order = new Int32Array(count);
    for (let i = 0; i < count; i++) this.order[i] = first + i;
  }

  get isEmpty(): boolean {
    return this.head >= this.order.length && this.again.length === 0;
  }

  /** In their turn, each with its sessions and whether it stays in service, which are asked of the first ones only. */
  turns(sessionsOf: (host: number) => number, staysInService: (host: number) => boolean): Queue<Turn> {
    const { again, order, head } = this;
    return {
      length: again.length + order.length - head,
      at(turn) {
        const failed = again[turn];
        if (failed) {
          const { host } = failed;
          const stays = staysInService(host);
          return { host, place: -1, isOut: !stays, sessions: 0, staysInService: stays };
        }
        const place = head + turn - again.length;
        const host = order[place] as number;
        return {
          host,
          place,
          isOut: false,
          sessions: sessionsOf(host),
          staysInService: staysInService(host),
        };
      },
    };
  }

  /** Takes out those that were started; those passed over keep their turn. */
  take(started: readonly Turn[]): void {
    const again = started.filter(({ place }) => place < 0);
    for (const { host } of again)
      this.again.splice(
        this.again.findIndex((one) => one.host === host),
        1,
      );
    const fresh = started.length - again.length;
    const last = started.at(-1)?.place ?? -1;
    if (fresh === 0) return;
    const isInTurn = last - this.head + 1 === fresh;
    this.head = isInTurn ? last + 1 : this.closeUp(started, last);
  }

  /** Moves those passed over up to the last one taken; returns where the queue begins then. */
  private closeUp(started: readonly Turn[], last: number): number {
    const taken = new Set(started.map(({ place }) => place));
    let to = last;
    for (let place = last; place >= this.head; place--)
      if (!taken.has(place)) this.order[to--] = this.order[place] as number;
    return to + 1;
  }

  /** A host that failed is tried again: those tried more often first, then by their numbers. */
  putBack(host: number, tries: number): void {
    this.again.push({ host, tries });
    this.again.sort((a, b) => b.tries - a.tries || a.host - b.host);
  }
}
