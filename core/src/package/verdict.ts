/** Which delivery suits a capture: a verdict for each, with the findings that it rests on. */
import type { FindingKind } from './findings.ts';

export const deliveries = ['container', 'in the image', 'installed', 'published'] as const;
export type Delivery = (typeof deliveries)[number];
export type Suitability = 'suits' | 'suits with care' | 'does not suit';

export interface Reason {
  readonly finding: FindingKind;
  readonly text: string;
}

export interface Verdict {
  readonly delivery: Delivery;
  readonly suitability: Suitability;
  /** Worst first; none when it simply suits. */
  readonly reasons: readonly Reason[];
}

type Rules = Partial<Record<FindingKind, readonly ['care' | 'no', string]>>;

const rules: Record<Delivery, Rules> = {
  container: {
    driver: ['no', 'a driver cannot be attached'],
    updater: ['care', 'its updater has to be switched off'],
    'one user only': ['care', 'it has to be made to install for everybody'],
    service: ['care', 'its service is started at each attach'],
    dependency: ['care', 'what it needs must be attached too, or travel along'],
    'shell extension': ['care', 'the shell holds it open, so detaching waits for sign-out'],
    certificate: ['care', 'its certificate must be put on the hosts beforehand'],
    'run-time writes': ['care', 'it writes where a container is read-only'],
    clash: ['care', 'it clashes with a package that hosts have'],
    'hard-coded path': ['care', 'paths of the packaging machine must be replaced'],
    large: ['care', 'more than 2 GB to mount and to read from the share'],
  },
  'in the image': {
    updater: ['care', 'its updater makes hosts differ from the image'],
    'one user only': ['no', 'generalising the image takes the profile away, and it with it'],
    'hard-coded path': ['care', 'paths of the packaging machine must be replaced'],
    clash: ['care', 'it overwrites a file or setting of another application'],
    large: ['care', 'every clone carries it'],
  },
  installed: {
    driver: ['care', 'the host restarts to load its driver'],
    updater: ['care', 'its updater changes what was installed'],
    'one user only': ['care', 'it installs anew for each person who signs in'],
    dependency: ['care', 'what it needs must be installed before'],
    clash: ['care', 'it overwrites a file or setting of another application'],
    large: ['care', 'every host downloads it'],
  },
  published: {
    'one user only': ['no', 'there is no program that everybody could open'],
    'shell extension': ['care', 'a single app shows no shell that it could extend'],
    picture: ['care', 'people choose it by its picture, which is poor or missing'],
  },
};

/** A verdict for every delivery. Findings that were dealt with (an updater switched off) are left out by the caller. */
export function verdictsOn(findings: readonly { readonly kind: FindingKind }[]): Verdict[] {
  return deliveries.map((delivery) => {
    const hits = findings.flatMap((finding) => {
      const rule = rules[delivery][finding.kind];
      return rule ? [{ finding: finding.kind, weight: rule[0], text: rule[1] }] : [];
    });
    hits.sort((a, b) => Number(b.weight === 'no') - Number(a.weight === 'no'));
    const suitability: Suitability = hits.some((hit) => hit.weight === 'no')
      ? 'does not suit'
      : hits.length > 0
        ? 'suits with care'
        : 'suits';
    return { delivery, suitability, reasons: hits.map(({ finding, text }) => ({ finding, text })) };
  });
}

/** The container's verdict as the end of a sentence after the application's name. */
export function containerSentence(verdicts: readonly Verdict[]): string {
  const verdict = verdicts.find((row) => row.delivery === 'container');
  const [first, ...others] = verdict?.reasons ?? [];
  switch (verdict?.suitability) {
    case 'does not suit':
      return `does not suit a container: ${first?.text ?? ''}`;
    case 'suits with care':
      return `suits a container with care: ${first?.text ?? ''}${others.length > 0 ? `, and ${others.length} more` : ''}`;
    default:
      return 'suits a container';
  }
}
