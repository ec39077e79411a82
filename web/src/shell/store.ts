import { configureStore } from '@reduxjs/toolkit';
import { useDispatch, useSelector, type TypedUseSelectorHook } from 'react-redux';
import { recipeDrafts } from '../images/recipe/recipe-drafts.ts';
import { scheduleDrafts } from '../images/schedule/schedule-drafts.ts';
import { api } from './api.ts';
import { layout } from './layout.ts';

export const store = configureStore({
  reducer: {
    [api.reducerPath]: api.reducer,
    layout: layout.reducer,
    recipeDrafts: recipeDrafts.reducer,
    scheduleDrafts: scheduleDrafts.reducer,
  },
  middleware: (defaults) => defaults().concat(api.middleware),
});

type State = ReturnType<typeof store.getState>;
export const useAppDispatch: () => typeof store.dispatch = useDispatch;
export const useAppSelector: TypedUseSelectorHook<State> = useSelector;
