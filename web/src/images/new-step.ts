import type { Step, StepKind } from '@vatline/core/image/recipe';

/** A step of a kind, filled with what is most often right, under an id that is free. */
export function newStep(kind: StepKind, others: readonly Step[]): Step {
  const id = freeId(kind.replaceAll(' ', '-'), others);
  switch (kind) {
    case 'operating system':
      return { id, kind, system: 'Desktop OS 24.2', edition: 'multi-session', mediaDigest: '' };
    case 'updates':
      return { id, kind, release: '2027-03' };
    case 'host agent':
      return { id, kind, version: '4.8' };
    case 'join directory':
      return { id, kind, ou: 'OU=Build,OU=Hosts,DC=wrenfield,DC=example' };
    case 'application':
      return { id, kind, name: '', publisher: '', version: '', command: '', exitCodes: [0, 3010] };
    case 'script':
      return { id, kind, title: '', text: '' };
    case 'restart':
      return { id, kind };
  }
}

function freeId(base: string, others: readonly Step[]): string {
  const taken = new Set(others.map((step) => step.id));
  for (let n = 1; ; n++) {
    const id = n === 1 ? base : `${base}-${n}`;
    if (!taken.has(id)) return id;
  }
}
