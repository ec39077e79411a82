/** What was found in a capture, gravest first, each with its evidence and what to do about it. */
import { Button } from 'antd';
import { entryName, type Entry } from '@vatline/core/inventory/entry';
import type { Finding as CaptureFinding, FindingKind } from '@vatline/core/package/findings';
import { Finding, type Tone } from '../../parts/finding.tsx';
import type { Draft } from '../manifest/use-draft.ts';

/** So many rows of evidence are shown; the difference has them all. */
const SHOWN = 4;

const tones: Partial<Record<FindingKind, Tone>> = {
  driver: 'trouble',
  'one user only': 'trouble',
  'shared library': 'calm',
  unsigned: 'calm',
  'large file': 'calm',
};

interface Props {
  readonly findings: readonly CaptureFinding[];
  readonly draft: Draft;
  /** Its containers are built; nothing is decided here any more. */
  readonly isBuilt: boolean;
}

export function FindingsList({ findings, draft, isBuilt }: Props) {
  if (findings.length === 0)
    return (
      <p className="quiet">No driver, service, updater or per-user part was found, and nothing large.</p>
    );
  return findings.map((finding) => {
    const isOff = finding.kind === 'updater' && draft.updatersOff;
    return (
      <Finding
        key={finding.kind}
        tone={isOff ? 'good' : (tones[finding.kind] ?? 'attention')}
        title={isOff ? 'Its updater is switched off in the package' : finding.title}
        action={
          finding.kind === 'updater' && !isBuilt ? (
            <Button size="small" onClick={() => draft.setUpdatersOff(!draft.updatersOff)}>
              {draft.updatersOff ? 'Leave it on' : 'Switch it off in the package'}
            </Button>
          ) : undefined
        }
      >
        {isOff ? 'This is done to it:' : finding.why}
        {finding.evidence.slice(0, SHOWN).map(({ entry, note }) => (
          <span key={`${entry.kind} ${entryName(entry)}`} className="remedy mono" title={entryName(entry)}>
            {note === '' ? named(entry) : finding.kind === 'updater' ? note : `${named(entry)}: ${note}`}
          </span>
        ))}
        {finding.evidence.length > SHOWN && (
          <span className="remedy">and {finding.evidence.length - SHOWN} more, marked in the difference</span>
        )}
      </Finding>
    );
  });
}

/** Paths and values speak for themselves; a bare name says what it is of. */
function named(entry: Entry): string {
  const isBare = entry.kind === 'service' || entry.kind === 'driver' || entry.kind === 'task';
  return isBare ? `${entry.kind} ${entryName(entry)}` : entryName(entry);
}
