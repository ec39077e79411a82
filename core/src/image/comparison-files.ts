/** A comparison as files to keep: CSV (RFC 4180) and JSON. */
import { stringify } from 'csv-stringify/browser/esm/sync';
import type { VersionComparison } from './compare-versions.ts';

const columns = ['kind', 'change', 'name', 'before', 'after', 'size before', 'size after', 'bytes'] as const;

/** One row a difference, with a header; bytes as whole numbers. */
export function comparisonCsv(comparison: VersionComparison): string {
  const rows = comparison.groups.flatMap(({ kind, items }) =>
    items.map(({ change, name, before, after, sizes, bytes }) => [
      kind,
      change,
      name,
      before,
      after,
      ...sizes,
      bytes,
    ]),
  );
  // A spreadsheet would run what begins like a formula.
  return stringify([[...columns], ...rows], {
    escape_formulas: true,
    record_delimiter: 'windows',
  });
}

/** The differences only, with what is the same as a count. */
export function comparisonJson(from: string, to: string, comparison: VersionComparison): string {
  const groups = comparison.groups.filter((group) => group.items.length > 0 || group.same > 0);
  return `${JSON.stringify({ from, to, sizeChange: comparison.sizeChange, groups }, null, 2)}\n`;
}
