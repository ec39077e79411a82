/** Long lists come in pages: so many rows, how many there are, and where the next page begins. */
import { z } from 'zod';
import { text } from './endpoint.ts';

/** More than a screen shows, and few enough to be read at once. */
const MOST_ROWS = 500;

/** What is asked of a page: spread it into the query of an endpoint. */
export const pageQuery = {
  limit: z.coerce
    .number()
    .int()
    .min(1)
    .max(MOST_ROWS, `is more than ${MOST_ROWS}; ask for the next page`)
    .default(100),
  /** `next` of the page before; the first page where it is left out. */
  after: text.optional(),
};

/** A page of a list. */
export interface Page<T> {
  readonly rows: readonly T[];
  /** Of all that were asked for, on every page. */
  readonly total: number;
  /** To be given as `after`; null on the last page. */
  readonly next: string | null;
}

export function pageOf<T extends z.ZodType>(row: T) {
  return z.object({ rows: z.array(row), total: z.number(), next: z.string().nullable() });
}
