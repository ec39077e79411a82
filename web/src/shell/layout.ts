/** What of the frame is folded or open, kept in the browser. */
import { createSlice, type PayloadAction } from '@reduxjs/toolkit';

export type TapeRange = '24 h' | '7 days' | '4 wk';

interface Layout {
  rackFolded: boolean;
  tapeFolded: boolean;
  journalOpen: boolean;
  searchOpen: boolean;
  keysOpen: boolean;
  tapeRange: TapeRange;
  dark: boolean;
}

const initialState: Layout = {
  rackFolded: false,
  tapeFolded: false,
  journalOpen: false,
  searchOpen: false,
  keysOpen: false,
  tapeRange: '7 days',
  dark: localStorage.getItem('vatline.dark') === 'yes',
};

type Switch = Exclude<keyof Layout, 'tapeRange' | 'dark'>;

export const layout = createSlice({
  name: 'layout',
  initialState,
  reducers: {
    toggled(state, { payload }: PayloadAction<Switch>) {
      state[payload] = !state[payload];
    },
    closed(state, { payload }: PayloadAction<Switch>) {
      state[payload] = false;
    },
    tapeRangeChosen(state, { payload }: PayloadAction<TapeRange>) {
      state.tapeRange = payload;
    },
    themeSwitched(state) {
      state.dark = !state.dark;
      localStorage.setItem('vatline.dark', state.dark ? 'yes' : 'no');
    },
  },
});

export const { toggled, closed, tapeRangeChosen, themeSwitched } = layout.actions;
