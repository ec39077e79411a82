/** First desktops as they stand on their bench, so that leaving the screen loses nothing; null while nothing was changed. */
import { createSlice, type PayloadAction, type WithSlice } from '@reduxjs/toolkit';
import type { FirstDraft } from '@vatline/contract/first-desktops';
import { rootReducer } from '../shell/store.ts';

const firstDraft = createSlice({
  name: 'firstDraft',
  initialState: { draft: null as FirstDraft | null },
  reducers: {
    firstChanged: (state, { payload }: PayloadAction<FirstDraft>) => ({ ...state, draft: payload }),
    firstBegun: () => ({ draft: null }),
  },
  selectors: { firstDraftOf: (state) => state.draft },
});

declare module '../shell/store.ts' {
  // eslint-disable-next-line @typescript-eslint/no-empty-object-type -- this is how a slice is added
  interface LazySlices extends WithSlice<typeof firstDraft> {}
}

export const { firstChanged, firstBegun } = firstDraft.actions;
export const { firstDraftOf } = firstDraft.injectInto(rootReducer).selectors;
