/** Plans as they stand on screen before they are begun or kept, so that leaving the screen loses nothing. */
import { createSlice, type PayloadAction, type WithSlice } from '@reduxjs/toolkit';
import type { RolloutRequest } from '@vatline/contract/rollout';
import { rootReducer } from '../../shell/store.ts';

const initialState: Record<string, RolloutRequest> = {};

const planDrafts = createSlice({
  name: 'planDrafts',
  initialState,
  reducers: {
    planChanged(
      state,
      { payload }: PayloadAction<{ readonly of: string; readonly request: RolloutRequest }>,
    ) {
      return { ...state, [payload.of]: payload.request };
    },
    planDropped(state, { payload }: PayloadAction<string>) {
      const { [payload]: _gone, ...rest } = state;
      return rest;
    },
  },
  selectors: {
    /** By what was asked for: the pool, and the kept plan, the blend or the hosts that it began from. */
    planDraftOf: (drafts, of: string): RolloutRequest | undefined => drafts[of],
  },
});

declare module '../../shell/store.ts' {
  // eslint-disable-next-line @typescript-eslint/no-empty-object-type -- this is how a slice is added
  interface LazySlices extends WithSlice<typeof planDrafts> {}
}

export const { planChanged, planDropped } = planDrafts.actions;
export const { planDraftOf } = planDrafts.injectInto(rootReducer).selectors;
