/**
 * Time as a rollout has it: windows one behind the other, and the days between cut out, so that four
 * nights of a week are four pieces side by side and not four strokes.
 */

interface Span {
  readonly start: number;
  readonly end: number;
}

/** What is shown around a moment that lies in no window: of an earlier plan, say. */
const AROUND = 15 * 60_000;

export class LiveAxis {
  /** Overlapping none, earliest first. */
  readonly pieces: readonly Span[];
  private readonly offsets: readonly number[];
  readonly length: number;

  /** Over some windows, and every moment that has to be seen. */
  constructor(windows: readonly Span[], moments: readonly number[]) {
    const outside = moments.filter((at) => !windows.some(({ start, end }) => start <= at && at <= end));
    const around = outside.map((at) => ({ start: at - AROUND, end: at + AROUND }));
    this.pieces = merged([...windows, ...around]);
    let length = 0;
    this.offsets = this.pieces.map(({ start, end }) => {
      const offset = length;
      length += end - start;
      return offset;
    });
    this.length = length;
  }

  /** Where an instant stands; one between two pieces at their joint. */
  at(instant: number): number {
    for (const [i, { start, end }] of this.pieces.entries()) {
      if (instant < start) return this.offsets[i] ?? 0;
      if (instant <= end) return (this.offsets[i] ?? 0) + instant - start;
    }
    return this.length;
  }

  /** The instant at a place; of two at a joint the later one. */
  instantAt(place: number): number {
    const i = Math.max(
      0,
      this.offsets.findLastIndex((offset) => offset <= place),
    );
    const piece = this.pieces[i];
    return piece ? Math.min(piece.end, piece.start + place - (this.offsets[i] ?? 0)) : 0;
  }

  /** Where each piece begins. */
  get joints(): readonly { readonly value: number; readonly at: number }[] {
    return this.pieces.map(({ start }, i) => ({ value: this.offsets[i] ?? 0, at: start }));
  }
}

function merged(spans: readonly Span[]): Span[] {
  const found: Span[] = [];
  for (const span of [...spans].sort((a, b) => a.start - b.start)) {
    const last = found.at(-1);
    if (last && span.start <= last.end)
      found[found.length - 1] = { start: last.start, end: Math.max(last.end, span.end) };
    else found.push(span);
  }
  return found;
}
