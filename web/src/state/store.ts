import { configureStore } from '@reduxjs/toolkit';
import { useDispatch, useSelector, type TypedUseSelectorHook } from 'react-redux';
import { jobsReducer } from './jobsSlice.ts';
import { checksReducer } from './checksSlice.ts';
import { crateReducer } from './crateSlice.ts';
import { crateEditsReducer } from './crateEditsSlice.ts';
import { askingReducer } from './askingSlice.ts';
import { lookingReducer } from './lookingSlice.ts';
import { downloadsReducer } from './downloadsSlice.ts';
import { layoutReducer } from './layoutSlice.ts';
import { preferencesReducer } from './preferencesSlice.ts';
import { mapReducer } from './mapSlice.ts';
import { scriptsReducer } from './scriptsSlice.ts';
import { viewReducer } from './viewSlice.ts';
import { trialRunReducer } from './trialRunSlice.ts';

export const store = configureStore({
  reducer: {
    crate: crateReducer,
    crateEdits: crateEditsReducer,
    map: mapReducer,
    scripts: scriptsReducer,
    view: viewReducer,
    asking: askingReducer,
    downloads: downloadsReducer,
    preferences: preferencesReducer,
    layout: layoutReducer,
    looking: lookingReducer,
    jobs: jobsReducer,
    checks: checksReducer,
    trialRun: trialRunReducer,
  },
  // Maps are large plain documents; walking them at every action costs more than it finds.
  middleware: (defaults) => defaults({ serializableCheck: false, immutableCheck: false }),
});

export type RootState = ReturnType<typeof store.getState>;
export type AppDispatch = typeof store.dispatch;
export const useAppDispatch: () => AppDispatch = useDispatch;
export const useAppSelector: TypedUseSelectorHook<RootState> = useSelector;
