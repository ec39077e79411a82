/** Calendars of closed days. Units are in the names: `_ms` instants. */
import type { Selectable } from 'kysely';
import type { Tables } from '../platform/tables.ts';

declare module '../platform/tables.ts' {
  interface Tables {
    calendar: {
      id: string;
      name: string;
      /** The iCalendar file as it was given. */
      text: string;
      revision: number;
      kept_ms: number;
    };
  }
}

/** A calendar without its file. */
export type CalendarHead = Omit<Selectable<Tables['calendar']>, 'text'>;
