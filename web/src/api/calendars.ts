/** Calls for calendars of closed days. */
import { calendarEndpoints } from '@vatline/contract/calendar';
import { api, does, reads } from './base.ts';

export const calendarsApi = api.injectEndpoints({
  endpoints: (build) => ({
    calendars: reads(build, calendarEndpoints.list),
    addCalendar: does(build, calendarEndpoints.add),
  }),
});
