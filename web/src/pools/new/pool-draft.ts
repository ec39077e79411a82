/** A pool as it stands on its bench before it is made, so that leaving the screen loses nothing. */
import { createSlice, type PayloadAction, type WithSlice } from '@reduxjs/toolkit';
import type { PoolDraft } from '@vatline/contract/pool/kinds';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import { rootReducer } from '../../shell/store.ts';

/** What a pool begins with; a name, a version and a place are chosen by whoever makes it. */
export const beginning: PoolDraft = {
  name: '',
  kind: 'pooled',
  clone: 'linked',
  sessionLimit: 12,
  signOut: 'keep',
  idleMinutes: null,
  disconnectMinutes: null,
  mayRestart: true,
  zone: null,
  pattern: 'WCL-NEW-##',
  start: 1,
  count: 8,
  fillGaps: false,
  places: [{}],
  dataGigabytes: 0,
  days: 30,
  store: null,
  chassis: null,
  slots: [],
  scratchGigabytes: 6,
  joinAccount: null,
  licence: null,
  isHeld: false,
  atOnce: 8,
  onFault: 'stop',
  isAnyway: false,
  isAdopting: false,
};

interface State {
  readonly draft: PoolDraft;
  /** Whether somebody tried to make it: from then on what is missing is a fault. */
  readonly tried: boolean;
  /** As somebody typed it, while it has faults; null while it is the draft's own. */
  readonly text: string | null;
}

const initialState: State = { draft: beginning, tried: false, text: null };

const poolDraft = createSlice({
  name: 'poolDraft',
  initialState,
  reducers: {
    poolChanged: (state, { payload }: PayloadAction<PoolDraft>) => ({
      ...state,
      text: null,
      draft: { ...state.draft, ...payload },
    }),
    poolReplaced: (state, { payload }: PayloadAction<PoolDraft>) => ({ ...state, draft: payload }),
    textTyped: (state, { payload }: PayloadAction<string | null>) => ({ ...state, text: payload }),
    makingTried: (state) => ({ ...state, tried: true }),
    poolDropped: () => initialState,
  },
  selectors: { newPool: (state) => state },
});

declare module '../../shell/store.ts' {
  // eslint-disable-next-line @typescript-eslint/no-empty-object-type -- this is how a slice is added
  interface LazySlices extends WithSlice<typeof poolDraft> {}
}

export const { poolChanged, poolReplaced, textTyped, makingTried, poolDropped } = poolDraft.actions;
export const { newPool } = poolDraft.injectInto(rootReducer).selectors;

/** A pool like another one: all that is said of it but its name, its hosts' names and their number. */
export function copyOf(pool: PoolDetail): PoolDraft {
  const { kind, clone, sessionLimit, ou, places, settings } = pool;
  return {
    ...beginning,
    ...settings,
    kind,
    clone,
    sessionLimit,
    ou,
    places: places.map((place) => ({ ...place })),
    ...(pool.blend ? { imageVersionId: pool.blend.imageVersionId } : {}),
    pattern: pool.pattern,
    fillGaps: true,
    // Its machines are its own.
    slots: [],
  };
}
