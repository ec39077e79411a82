/** What was found in a capture, gravest first, each with its evidence and what to do about it. */
import { entryName, type Entry } from '@vatline/core/image/inventory';
import type { Finding as CaptureFinding, FindingKind } from '@vatline/core/package/findings';
import { Finding, type Tone } from '../parts/finding.tsx';

/** So many rows of evidence are shown; the difference has them all. */
const SHOWN = 4;

const tones: Partial<Record<FindingKind, Tone>> = {
  driver: 'trouble',
  'one user only': 'trouble',
  'shared library': 'calm',
  'large file': 'calm',
};

export function FindingsList({ findings }: { findings: readonly CaptureFinding[] }) {
  if (findings.length === 0)
    return (
      <p className="quiet">No driver, service, updater or per-user part was found, and nothing large.</p>
    );
  return findings.map((finding) => (
    <Finding key={finding.kind} tone={tones[finding.kind] ?? 'attention'} title={finding.title}>
      {finding.why}
      {finding.evidence.slice(0, SHOWN).map(({ entry, note }) => (
        <span key={`${entry.kind} ${entryName(entry)}`} className="remedy mono" title={entryName(entry)}>
          {note === '' ? named(entry) : finding.kind === 'updater' ? note : `${named(entry)}: ${note}`}
        </span>
      ))}
      {finding.evidence.length > SHOWN && (
        <span className="remedy">and {finding.evidence.length - SHOWN} more, marked in the difference</span>
      )}
    </Finding>
  ));
}

/** Paths and values speak for themselves; a bare name says what it is of. */
function named(entry: Entry): string {
  const isBare = entry.kind === 'service' || entry.kind === 'driver' || entry.kind === 'task';
  return isBare ? `${entry.kind} ${entryName(entry)}` : entryName(entry);
}
