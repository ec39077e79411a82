/** A colour of the theme as the page has it now, for drawings that do not inherit it. */
export function chartColour(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(name).trim();
}
