/** The tape: the strip of time along the bottom, the estate's clock, and the journal above it. */
import './tape.css';
import { lazy, Suspense } from 'react';
import { useEstateTime } from '../shell/clock.ts';
import { tapeRangeChosen, toggled, type TapeRange } from '../shell/layout.ts';
import { useAppDispatch, useAppSelector } from '../shell/store.ts';
import { ClockFace } from './clock-face.tsx';
import { tapeRanges, TapeStrip } from './tape-strip.tsx';

const Journal = lazy(async () => ({ default: (await import('./journal.tsx')).Journal }));

export function Tape() {
  const { tapeFolded, journalOpen } = useAppSelector((state) => state.layout);
  const clock = useEstateTime();
  if (tapeFolded) return <footer className="tape folded" aria-label="Tape, folded" />;
  return (
    <footer className="tape" aria-label="Tape">
      {journalOpen && (
        <Suspense>
          <Journal />
        </Suspense>
      )}
      <ClockFace clock={clock} />
      <TapeStrip clock={clock} />
      <TapeSide />
    </footer>
  );
}

function TapeSide() {
  const dispatch = useAppDispatch();
  const { tapeRange, journalOpen } = useAppSelector((state) => state.layout);
  return (
    <div className="tape-side">
      <div className="row">
        {(Object.keys(tapeRanges) as TapeRange[]).map((range) => (
          <button
            key={range}
            type="button"
            className="plain-button"
            aria-pressed={tapeRange === range}
            onClick={() => dispatch(tapeRangeChosen(range))}
          >
            {range}
          </button>
        ))}
      </div>
      <button
        type="button"
        className="plain-button"
        aria-expanded={journalOpen}
        onClick={() => dispatch(toggled('journalOpen'))}
      >
        Journal {journalOpen ? '↓' : '↑'}
      </button>
    </div>
  );
}
