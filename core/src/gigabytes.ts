/** Bytes in words, with at most one place after the point, such as `1,234.5 GB`. */
export function gigabytes(bytes: number): string {
  return `${(bytes / 1e9).toLocaleString('en-GB', { maximumFractionDigits: 1 })} GB`;
}
