/** Waits for a seat, counted minute by minute. */

/** Who finds no seat waits until one is free, in the order in which they came. */
export class Waiting {
  people = 0;
  minutes = 0;
  longest = 0;
  private queue = 0;
  private since = 0;

  /** Lets a minute pass in which so many came; those present have a seat or wait for one. */
  minute(came: number, present: number, seats: number): void {
    const queue = Math.max(0, present - seats);
    if (queue > 0) this.people += this.queue > 0 ? came : Math.min(came, queue);
    this.queue = queue;
    this.minutes += queue;
    // The first of the queue has waited since it began.
    this.since = queue > 0 ? this.since + 1 : 0;
    this.longest = Math.max(this.longest, this.since);
  }
}
