/** The windows of a rule as a list, read only as far as somebody asks, and shared by all runs of a forecast. */
import { MINUTE, type Instant } from '../../time/instant.ts';
import type { WindowSpan } from '../../time/windows.ts';

/** Windows tried before a plan is called one that never finishes. */
const MOST_WINDOWS = 400;

export class WindowsAhead {
  private readonly iterator: Iterator<WindowSpan>;
  private readonly known: WindowSpan[] = [];
  private longest: number[] | undefined;

  /** Those of some length; one that is open at `notBefore` begins there. */
  constructor(
    source: Iterable<WindowSpan>,
    private readonly notBefore: Instant,
  ) {
    this.iterator = source[Symbol.iterator]();
  }

  at(index: number): WindowSpan | undefined {
    while (this.known.length <= index && this.known.length < MOST_WINDOWS) {
      const next = this.iterator.next();
      if (next.done) return undefined;
      const { end, minutes, clockChange } = next.value;
      const start = Math.max(next.value.start, this.notBefore);
      if (minutes > 0 && end > start)
        this.known.push({ start, end, minutes: (end - start) / MINUTE, clockChange });
    }
    return this.known[index];
  }

  /** Minutes of the longest window behind an index. */
  longestAfter(index: number): number {
    this.longest ??= this.longestBehindEach();
    return this.longest[index] ?? 0;
  }

  private longestBehindEach(): number[] {
    let count = 0;
    while (this.at(count)) count++;
    const longest = Array.from({ length: count }, () => 0);
    for (let i = count - 2; i >= 0; i--)
      longest[i] = Math.max(this.known[i + 1]?.minutes ?? 0, longest[i + 1] ?? 0);
    return longest;
  }
}
