/** Units of bytes as OVF writes them: programmatic units of DMTF DSP0004, annex C. */

const prefixes: Record<string, number> = { kilo: 2 ** 10, mega: 2 ** 20, giga: 2 ** 30, tera: 2 ** 40 };

/**
 * Bytes of one unit: `byte`, `byte * 2^30`, `byte * 10^6`, `byte*1024`, or the older `MegaBytes`
 * (of 2^20, as OVF 1.0 had it). Undefined for anything else.
 */
export function bytesOf(units: string): number | undefined {
  const text = units.trim().toLowerCase();
  const older = /^(kilo|mega|giga|tera)bytes?$/.exec(text);
  if (older) return prefixes[older[1] as string];
  const parts = /^bytes?(?:\s*\*\s*(\d+)(?:\s*\^\s*(\d+))?)?$/.exec(text);
  if (!parts) return undefined;
  const [, base, exponent] = parts;
  const factor = base === undefined ? 1 : Number(base) ** Number(exponent ?? 1);
  return Number.isFinite(factor) && factor > 0 ? factor : undefined;
}
