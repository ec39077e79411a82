/** Changes to recipes that are not kept yet, so that leaving a screen loses nothing. */
import { createSlice, type PayloadAction, type WithSlice } from '@reduxjs/toolkit';
import type { TextFault } from '@vatline/contract/yaml-document';
import type { Hardware } from '@vatline/core/image/hardware';
import type { Step } from '@vatline/core/image/recipe';
import { rootReducer } from '../../shell/store.ts';

export interface RecipeDraft {
  readonly basedOn: number;
  readonly steps: readonly Step[];
  readonly hardware: Hardware;
  /** The recipe as it was typed, which may be no recipe yet; `steps` are those of the last text that was. */
  readonly text?: string;
  /** What is wrong in `text`; empty when it is a recipe. */
  readonly textFaults?: readonly TextFault[];
}

const initialState: Record<string, RecipeDraft> = {};

const recipeDrafts = createSlice({
  name: 'recipeDrafts',
  initialState,
  reducers: {
    changed(state, { payload }: PayloadAction<{ lineId: string; draft: RecipeDraft }>) {
      return { ...state, [payload.lineId]: payload.draft };
    },
    dropped(state, { payload }: PayloadAction<string>) {
      const { [payload]: _gone, ...rest } = state;
      return rest;
    },
  },
  selectors: {
    recipeDraftOf: (drafts, lineId: string): RecipeDraft | undefined => drafts[lineId],
  },
});

declare module '../../shell/store.ts' {
  // eslint-disable-next-line @typescript-eslint/no-empty-object-type -- this is how a slice is added
  interface LazySlices extends WithSlice<typeof recipeDrafts> {}
}

export const { changed, dropped } = recipeDrafts.actions;
export const { recipeDraftOf } = recipeDrafts.injectInto(rootReducer).selectors;
