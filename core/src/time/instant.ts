/** A point in time: milliseconds since 1970-01-01T00:00:00Z. */
export type Instant = number & { readonly __unit?: 'instant' };

/** Milliseconds in a minute. */
export const MINUTE = 60_000;
/** Milliseconds in an hour. */
export const HOUR = 60 * MINUTE;
/** Milliseconds in 24 hours. */
export const DAY = 24 * HOUR;

const iso = /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}(:\d{2}(\.\d+)?)?(Z|[+-]\d{2}:\d{2})$/;

/** Reads an ISO 8601 instant with a zone (`2027-03-22T08:00:00Z`); undefined when it is not one. */
export function parseInstant(text: string): Instant | undefined {
  if (!iso.test(text)) return undefined;
  const value = Date.parse(text);
  return Number.isNaN(value) ? undefined : value;
}

/** Writes an instant in UTC, without milliseconds when they are zero. */
export function formatInstant(instant: Instant): string {
  return new Date(instant).toISOString().replace('.000Z', 'Z');
}
