/** How far the clocks of a zone are from UTC. Simulations ask millions of times, so every change of a clock is found once. */
import { DAY, MINUTE, type Instant } from './instant.ts';

/** Two weeks: shorter than any time for which clocks were ever changed, so that at most one change lies in a stretch. */
const STRETCH = 14 * DAY;
/** Clocks change on full quarters of an hour. */
const QUARTER = 15 * MINUTE;
/** A zone's stretches of a thousand years. */
const MOST_KNOWN = 30_000;

interface Stretch {
  /** Milliseconds. */
  readonly before: number;
  readonly after: number;
  /** From here on it is the second; infinite where the clocks do not change. */
  readonly changesAt: Instant;
}

class ZoneOffsets {
  private readonly format: Intl.DateTimeFormat;
  private readonly stretches = new Map<number, Stretch>();
  private readonly ends = new Map<number, number>();

  constructor(zone: string) {
    this.format = new Intl.DateTimeFormat('en-US', { timeZone: zone, timeZoneName: 'longOffset' });
  }

  at(instant: Instant): number {
    const number = Math.floor(instant / STRETCH);
    let stretch = this.stretches.get(number);
    if (!stretch) {
      if (this.stretches.size > MOST_KNOWN) this.forget();
      this.stretches.set(number, (stretch = this.look(number)));
    }
    return instant < stretch.changesAt ? stretch.before : stretch.after;
  }

  private forget(): void {
    this.stretches.clear();
    this.ends.clear();
  }

  private look(number: number): Stretch {
    const [before, after] = [this.atStart(number), this.atStart(number + 1)];
    if (before === after) return { before, after, changesAt: Infinity };
    let low = (number * STRETCH) / QUARTER;
    let high = ((number + 1) * STRETCH) / QUARTER;
    while (high - low > 1) {
      const middle = Math.floor((low + high) / 2);
      if (this.read(middle * QUARTER) === before) low = middle;
      else high = middle;
    }
    return { before, after, changesAt: high * QUARTER };
  }

  private atStart(number: number): number {
    let offset = this.ends.get(number);
    if (offset === undefined) this.ends.set(number, (offset = this.read(number * STRETCH)));
    return offset;
  }

  /** Read from `12/29/2066, GMT+01:00`. */
  private read(instant: Instant): number {
    const match = /GMT(?:([+-])(\d\d):(\d\d)(?::(\d\d))?)?$/.exec(this.format.format(instant));
    if (!match) throw new Error(`the offset of a zone cannot be read`);
    const [, sign, hours = '0', minutes = '0', seconds = '0'] = match;
    const ms = ((Number(hours) * 60 + Number(minutes)) * 60 + Number(seconds)) * 1000;
    return sign === '-' ? -ms : ms;
  }
}

const zones = new Map<string, ZoneOffsets>();
let last: { readonly name: string; readonly offsets: ZoneOffsets } | undefined;

/** Milliseconds by which the clocks of a zone are ahead of UTC. Throws a `RangeError` for a zone that there is not. */
export function offsetAt(zone: string, instant: Instant): number {
  if (last?.name !== zone) {
    let offsets = zones.get(zone);
    if (!offsets) zones.set(zone, (offsets = new ZoneOffsets(zone)));
    last = { name: zone, offsets };
  }
  return last.offsets.at(instant);
}
