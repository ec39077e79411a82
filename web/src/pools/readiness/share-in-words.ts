/** A small share as people say it: of a thousand where it is less than one of a hundred. */
export function shareInWords(share: number): string {
  if (share === 0) return '0 %';
  if (share < 0.0005) return 'under 0.05 %';
  return `${(share * 100).toFixed(share < 0.1 ? 2 : 0)} %`;
}
