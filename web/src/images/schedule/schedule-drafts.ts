/** Cut schedules as they stand on screen before they are kept, so that leaving the screen loses nothing. */
import { createSlice, type PayloadAction, type WithSlice } from '@reduxjs/toolkit';
import type { CutScheduleRequest } from '@vatline/contract/cut-schedule';
import { rootReducer } from '../../shell/store.ts';

interface ScheduleDraft {
  readonly schedule: CutScheduleRequest;
  /** Revision that it was begun from. */
  readonly basedOn: number;
}

const initialState: Record<string, ScheduleDraft> = {};

const scheduleDrafts = createSlice({
  name: 'scheduleDrafts',
  initialState,
  reducers: {
    scheduleChanged(state, { payload }: PayloadAction<ScheduleDraft & { readonly lineId: string }>) {
      const { lineId, ...draft } = payload;
      return { ...state, [lineId]: draft };
    },
    scheduleDropped(state, { payload }: PayloadAction<string>) {
      const { [payload]: _gone, ...rest } = state;
      return rest;
    },
  },
  selectors: {
    scheduleDraftOf: (drafts, lineId: string): ScheduleDraft | undefined => drafts[lineId],
  },
});

declare module '../../shell/store.ts' {
  // eslint-disable-next-line @typescript-eslint/no-empty-object-type -- this is how a slice is added
  interface LazySlices extends WithSlice<typeof scheduleDrafts> {}
}

export const { scheduleChanged, scheduleDropped } = scheduleDrafts.actions;
export const { scheduleDraftOf } = scheduleDrafts.injectInto(rootReducer).selectors;
