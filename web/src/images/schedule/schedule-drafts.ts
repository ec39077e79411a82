/** Cut schedules as they stand on screen before they are kept, so that leaving the screen loses nothing. */
import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { CutScheduleRequest } from '@vatline/contract/cut-schedule';

interface ScheduleDraft {
  readonly schedule: CutScheduleRequest;
  /** Revision that it was begun from. */
  readonly basedOn: number;
}

const initialState: Record<string, ScheduleDraft> = {};

export const scheduleDrafts = createSlice({
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
});

export const { scheduleChanged, scheduleDropped } = scheduleDrafts.actions;
