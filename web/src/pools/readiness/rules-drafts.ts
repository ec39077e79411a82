/** Rules of readiness as they stand on screen before they are kept, so that leaving the screen loses nothing. */
import { createSlice, type PayloadAction, type WithSlice } from '@reduxjs/toolkit';
import type { ReadinessRulesBody } from '@vatline/contract/pool/readiness';
import { rootReducer } from '../../shell/store.ts';

interface RulesDraft {
  readonly rules: ReadinessRulesBody;
  /** Revision that it was begun from. */
  readonly basedOn: number;
}

const initialState: Record<string, RulesDraft> = {};

const rulesDrafts = createSlice({
  name: 'rulesDrafts',
  initialState,
  reducers: {
    rulesChanged(state, { payload }: PayloadAction<RulesDraft & { readonly poolId: string }>) {
      const { poolId, ...draft } = payload;
      return { ...state, [poolId]: draft };
    },
    rulesDropped(state, { payload }: PayloadAction<string>) {
      const { [payload]: _gone, ...rest } = state;
      return rest;
    },
  },
  selectors: {
    rulesDraftOf: (drafts, poolId: string): RulesDraft | undefined => drafts[poolId],
  },
});

declare module '../../shell/store.ts' {
  // eslint-disable-next-line @typescript-eslint/no-empty-object-type -- this is how a slice is added
  interface LazySlices extends WithSlice<typeof rulesDrafts> {}
}

export const { rulesChanged, rulesDropped } = rulesDrafts.actions;
export const { rulesDraftOf } = rulesDrafts.injectInto(rootReducer).selectors;
