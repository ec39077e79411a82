import type { Step, StepKind } from '@vatline/core/image/recipe';

/** A step of a kind, filled with what is most often right, under an id that is free. */
export function newStep(kind: StepKind, others: readonly Step[]): Step {
  const id = freeId(kind.replaceAll(' ', '-'), others);
  const application = { id, name: '', publisher: '', version: '' };
  switch (kind) {
    case 'operating system':
      return { id, kind, system: 'Desktop OS 24.2', edition: 'multi-session', mediaDigest: '' };
    case 'updates':
      return { id, kind, release: '2027-03' };
    case 'guest tools':
      return { id, kind, version: '', drivers: ['para-virtual network', 'para-virtual disk'] };
    case 'language pack':
      return { id, kind, language: '' };
    case 'application':
      return { ...application, kind, command: '', exitCodes: [0, 3010] };
    case 'packaged application':
      return { ...application, kind, digest: '' };
    case 'application by option sheet':
      return { ...application, kind, sheet: '' };
    case 'file copy':
      return { id, kind, source: '', target: '', digest: '' };
    case 'shortcut':
      return { id, kind, name: '', target: '', place: 'desktop' };
    case 'registry setting':
      return { id, kind, key: '', name: '', type: 'REG_SZ', value: '' };
    case 'service start':
      return { id, kind, name: '', start: 'disabled' };
    case 'scheduled task':
      return { id, kind, name: '', action: 'remove', command: '', schedule: '' };
    case 'certificate':
      return { id, kind, store: 'trusted publishers', subject: '', digest: '' };
    case 'script':
      return { id, kind, title: '', text: '' };
    case 'join directory':
      return { id, kind, ou: 'OU=Build,OU=Hosts,DC=wrenfield,DC=example' };
    case 'host agent':
      return { id, kind, version: '4.8' };
    case 'profile agent':
      return { id, kind, version: '', share: '' };
    case 'settings baseline':
      return { id, kind, baseline: '', revision: 1 };
    case 'restart':
      return { id, kind };
    case 'wait for settle':
      return { id, kind, limitMinutes: 10 };
    case 'clean-up':
      return { id, kind, targets: ['temporary files', 'logs'] };
  }
}

/** The same step once more, below another id. */
export function copyOfStep(step: Step, others: readonly Step[]): Step {
  return { ...step, id: freeId(step.id.replace(/-\d+$/, ''), others) };
}

function freeId(base: string, others: readonly Step[]): string {
  const taken = new Set(others.map((step) => step.id));
  for (let n = 1; ; n++) {
    const id = n === 1 ? base : `${base}-${n}`;
    if (!taken.has(id)) return id;
  }
}
