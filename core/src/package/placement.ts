/**
 * What an application costs a year in the image, in a container, or installed on every host; which
 * is least, and which single assumption would change that. A rough model on purpose: its inputs
 * are estimates that the engineer can see and change.
 */

export interface PlacementInputs {
  /** People who have a desktop, and the share of them that uses the application. */
  readonly people: number;
  readonly share: number;
  readonly hosts: number;
  readonly releasesPerYear: number;
  /** Added to a sign-in while it is attached. */
  readonly attachSeconds: number;
  readonly signInsPerPersonYear: number;
  /** 1 when it is attached before anybody signs in, 0 when at sign-in; between for a part of the hosts. */
  readonly attachedAhead: number;
  readonly gigabytes: number;
  readonly minutesPerPackaging: number;
  readonly minutesPerImage: number;
  readonly rebuildHoursPerHost: number;
  /** Share of installs that fail, and minutes of work for each. */
  readonly failureRate: number;
  readonly minutesPerFailure: number;
  /** Money: an hour of an engineer, of a person who waits, of a host; a gigabyte kept for a year. */
  readonly engineerHour: number;
  readonly userHour: number;
  readonly hostHour: number;
  readonly gigabyteYear: number;
}

export type PlacementInput = keyof PlacementInputs;

export const placementDefaults: PlacementInputs = {
  people: 1900,
  share: 0.3,
  hosts: 154,
  releasesPerYear: 4,
  attachSeconds: 1,
  signInsPerPersonYear: 220,
  attachedAhead: 0,
  gigabytes: 0.2,
  minutesPerPackaging: 90,
  minutesPerImage: 45,
  rebuildHoursPerHost: 0.5,
  failureRate: 0.03,
  minutesPerFailure: 25,
  engineerHour: 45,
  userHour: 25,
  hostHour: 0.4,
  gigabyteYear: 0.6,
};

/** Inputs that are shares, at most 1. */
const shares: ReadonlySet<PlacementInput> = new Set(['share', 'attachedAhead', 'failureRate']);

export const placements = ['in the image', 'container', 'installed'] as const;
export type Placement = (typeof placements)[number];
export type PlacementCosts = Readonly<Record<Placement, number>>;

/** Cost of a year for each, in the money of the inputs. */
export function placementCosts(i: PlacementInputs): PlacementCosts {
  const engineerMinute = i.engineerHour / 60;
  const packaging = i.releasesPerYear * i.minutesPerPackaging * engineerMinute;
  const waited = i.people * i.share * i.signInsPerPersonYear * i.attachSeconds * (1 - i.attachedAhead);
  const failures = i.hosts * i.releasesPerYear * i.failureRate;
  return {
    'in the image':
      i.releasesPerYear * (i.minutesPerImage * engineerMinute + i.rebuildHoursPerHost * i.hosts * i.hostHour),
    container: packaging + (waited * i.userHour) / 3600 + i.gigabytes * i.gigabyteYear,
    installed: packaging + failures * i.minutesPerFailure * engineerMinute,
  };
}

export interface Flip {
  readonly input: PlacementInput;
  /** Value from which on another placement is least. */
  readonly at: number;
  readonly to: Placement;
}

export interface PlacementAdvice {
  readonly costs: PlacementCosts;
  readonly best: Placement;
  /** The nearest first, by how far the input is from there. */
  readonly flips: readonly Flip[];
}

/** Considers only what a verdict allows; all three when nothing is said. */
export function adviseOnPlacement(
  inputs: PlacementInputs,
  allowed: readonly Placement[] = placements,
): PlacementAdvice {
  const costs = placementCosts(inputs);
  const best = cheapest(costs, allowed);
  const flips = (Object.keys(inputs) as PlacementInput[])
    .flatMap((input) => nearestFlip(inputs, input, best, allowed))
    .sort((a, b) => distance(inputs, a) - distance(inputs, b));
  return { costs, best, flips };
}

function cheapest(costs: PlacementCosts, allowed: readonly Placement[]): Placement {
  return allowed.reduce((least, one) => (costs[one] < costs[least] ? one : least), allowed[0] ?? 'container');
}

/** Every cost is a straight line in each single input, so two points give where two lines meet. */
function nearestFlip(
  inputs: PlacementInputs,
  input: PlacementInput,
  best: Placement,
  allowed: readonly Placement[],
): Flip[] {
  const own = inputs[input];
  const [low, high] = [placementCosts({ ...inputs, [input]: 0 }), placementCosts({ ...inputs, [input]: 1 })];
  const flips = allowed.flatMap((other): Flip[] => {
    const gap = low[other] - low[best];
    const slope = high[other] - high[best] - gap;
    const at = -gap / slope;
    const isPossible = Number.isFinite(at) && at > 0 && at !== own && (!shares.has(input) || at <= 1);
    return other !== best && isPossible ? [{ input, at, to: other }] : [];
  });
  flips.sort((a, b) => distance(inputs, a) - distance(inputs, b));
  return flips.slice(0, 1);
}

/** As a factor either way. */
function distance(inputs: PlacementInputs, { input, at }: Flip): number {
  return Math.abs(Math.log(at / Math.max(inputs[input], 1e-9)));
}
