/** Cut schedules as they stand on screen before they are kept, so that leaving the screen loses nothing. */
import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { CutScheduleRequest } from '@vatline/contract/cut-schedule';

const initialState: Record<string, CutScheduleRequest> = {};

export const scheduleDrafts = createSlice({
  name: 'scheduleDrafts',
  initialState,
  reducers: {
    scheduleChanged(state, { payload }: PayloadAction<{ lineId: string; schedule: CutScheduleRequest }>) {
      return { ...state, [payload.lineId]: payload.schedule };
    },
    scheduleDropped(state, { payload }: PayloadAction<string>) {
      const { [payload]: _gone, ...rest } = state;
      return rest;
    },
  },
});

export const { scheduleChanged, scheduleDropped } = scheduleDrafts.actions;
