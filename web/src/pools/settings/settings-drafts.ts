/** Settings of pools as they stand on screen before they are kept, so that leaving the screen loses nothing. */
import { createSlice, type PayloadAction, type WithSlice } from '@reduxjs/toolkit';
import type { PoolDraft } from '@vatline/contract/pool/kinds';
import { rootReducer } from '../../shell/store.ts';

interface SettingsDraft {
  /** What differs from what is kept. */
  readonly changed: PoolDraft;
  /** Revision that it was begun from. */
  readonly basedOn: number;
}

const initialState: Record<string, SettingsDraft> = {};

const settingsDrafts = createSlice({
  name: 'settingsDrafts',
  initialState,
  reducers: {
    settingsChanged(state, { payload }: PayloadAction<SettingsDraft & { readonly poolId: string }>) {
      const { poolId, ...draft } = payload;
      return { ...state, [poolId]: draft };
    },
    settingsDropped(state, { payload }: PayloadAction<string>) {
      const { [payload]: _gone, ...rest } = state;
      return rest;
    },
  },
  selectors: {
    settingsDraftOf: (drafts, poolId: string): SettingsDraft | undefined => drafts[poolId],
  },
});

declare module '../../shell/store.ts' {
  // eslint-disable-next-line @typescript-eslint/no-empty-object-type -- this is how a slice is added
  interface LazySlices extends WithSlice<typeof settingsDrafts> {}
}

export const { settingsChanged, settingsDropped } = settingsDrafts.actions;
export const { settingsDraftOf } = settingsDrafts.injectInto(rootReducer).selectors;
