/** The state of the interface. A station adds slices of its own when it is loaded. */
import { combineSlices, configureStore } from '@reduxjs/toolkit';
import { useDispatch, useSelector, type TypedUseSelectorHook } from 'react-redux';
import { api } from '../api/base.ts';
import { layout } from './layout.ts';

/** Slices that come with their stations; each adds itself here, beside its definition. */
// eslint-disable-next-line @typescript-eslint/no-empty-object-type -- filled by the stations
export interface LazySlices {}

export const rootReducer = combineSlices(api, layout).withLazyLoadedSlices<LazySlices>();

export const store = configureStore({
  reducer: rootReducer,
  middleware: (defaults) => defaults().concat(api.middleware),
});

type State = ReturnType<typeof store.getState>;
export type AppDispatch = typeof store.dispatch;
export const useAppDispatch: () => AppDispatch = useDispatch;
export const useAppSelector: TypedUseSelectorHook<State> = useSelector;
