/**
 * Dyes: the colour, letters and hatch that stand for one image version wherever it is shown.
 * The three always go together, so that no meaning hangs on colour alone.
 */

export type Hatch = 'rising' | 'falling' | 'level' | 'upright' | 'crossed' | 'dotted';

export interface Dye {
  readonly name: DyeName;
  readonly letters: string;
  /** Background, as `#rrggbb`. */
  readonly colour: string;
  /** Lines of the hatch, as `#rrggbb`. */
  readonly line: string;
  readonly hatch: Hatch;
}

export const dyeNames = [
  'indigo',
  'weld',
  'verdigris',
  'madder',
  'slate',
  'saffron',
  'logwood',
  'lichen',
  'cochineal',
  'woad',
  'rose',
  'walnut',
] as const;
export type DyeName = (typeof dyeNames)[number];

const table: Record<DyeName, Omit<Dye, 'name'>> = {
  indigo: { letters: 'In', colour: '#3B4A8C', line: '#8C99D6', hatch: 'rising' },
  weld: { letters: 'We', colour: '#E3B23C', line: '#B9831A', hatch: 'level' },
  verdigris: { letters: 'Ve', colour: '#2F8F7F', line: '#8FD0C4', hatch: 'rising' },
  madder: { letters: 'Ma', colour: '#B9453A', line: '#E79A92', hatch: 'falling' },
  slate: { letters: 'Sl', colour: '#5B6B75', line: '#A9B8C1', hatch: 'rising' },
  saffron: { letters: 'Sa', colour: '#E98B33', line: '#FBD0A0', hatch: 'falling' },
  logwood: { letters: 'Lo', colour: '#6B4A7D', line: '#BBA0CB', hatch: 'crossed' },
  lichen: { letters: 'Li', colour: '#93A33B', line: '#5F6C1A', hatch: 'upright' },
  cochineal: { letters: 'Co', colour: '#A8234F', line: '#EE9BB7', hatch: 'dotted' },
  woad: { letters: 'Wo', colour: '#4F8FBF', line: '#BBDCF2', hatch: 'upright' },
  rose: { letters: 'Ro', colour: '#DF8B99', line: '#A94D60', hatch: 'level' },
  walnut: { letters: 'Wa', colour: '#6B4A2F', line: '#C09A76', hatch: 'dotted' },
};

export function dye(name: DyeName): Dye {
  return { name, ...table[name] };
}

/**
 * The dye of the `number`th version (from 1) of an image line. The order alternates dark and
 * light, so that neighbours stay apart; `offset` lets lines start at different places.
 */
export function dyeOfVersion(number: number, offset = 0): DyeName {
  const index = (((number - 1 + offset) % dyeNames.length) + dyeNames.length) % dyeNames.length;
  return dyeNames[index] as DyeName;
}
