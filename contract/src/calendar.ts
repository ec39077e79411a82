/** Calendars of closed days, kept as the iCalendar files (RFC 5545) they were given as. */
import { z } from 'zod';
import { basedOn, chosen, done, endpoint, filled, id, idParams, instant } from './endpoint.ts';

/** Below what a body of the API may hold; a calendar of twenty years of closed days has a fiftieth of it. */
export const MOST_CALENDAR_TEXT = 1_000_000;
const calendarText = z
  .string()
  .max(MOST_CALENDAR_TEXT, `has over ${MOST_CALENDAR_TEXT.toLocaleString('en-GB')} characters`);

/** Calendars that one plan may keep to. */
export const MOST_CALENDARS = 20;
export const calendarIds = z
  .array(chosen('a calendar'))
  .max(MOST_CALENDARS, `are more than ${MOST_CALENDARS}`);

export const calendarSchema = z.object({
  id: z.string(),
  name: z.string(),
  revision: z.number(),
  keptAt: instant,
  /** The next local dates on which nothing begins, `YYYY-MM-DD`, and stretches that nothing overlaps. */
  nextDates: z.array(z.string()),
  nextSpans: z.array(z.object({ start: instant, end: instant })),
  /** Rollouts under way that keep to it. */
  usedBy: z.array(z.object({ rolloutId: z.string(), pool: z.string() })),
});
export type Calendar = z.infer<typeof calendarSchema>;

export const calendarEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/calendars',
    summary: 'Calendars of closed days, with what they close next',
    dependsOn: ['calendar', 'rollout'],
    response: z.array(calendarSchema),
  }),
  add: endpoint({
    method: 'post',
    path: '/calendars',
    summary: 'Keep an iCalendar file of closed days',
    changes: ['calendar'],
    body: z.strictObject({ name: filled('The name').max(80, 'has over 80 characters'), text: calendarText }),
    response: z.object({ id }),
  }),
  replace: endpoint({
    method: 'put',
    path: '/calendars/:id',
    summary: 'Keep a newer file of a calendar; rollouts that keep to it follow',
    changes: ['calendar', 'rollout'],
    params: idParams,
    body: z.strictObject({ text: calendarText, basedOn }),
    response: z.object({ revision: z.number() }),
  }),
  remove: endpoint({
    method: 'delete',
    path: '/calendars/:id',
    summary: 'Forget a calendar that no rollout under way keeps to',
    changes: ['calendar'],
    params: idParams,
    response: done,
  }),
};
