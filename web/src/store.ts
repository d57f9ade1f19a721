import { configureStore } from '@reduxjs/toolkit';
import { useDispatch, useSelector, type TypedUseSelectorHook } from 'react-redux';
import { jobsReducer } from './api/jobsSlice.ts';
import { checksReducer } from './checks/checksSlice.ts';
import { crateReducer } from './crate/crateSlice.ts';
import { askingReducer } from './map/askingSlice.ts';
import { mapReducer } from './map/mapSlice.ts';
import { viewReducer } from './map/viewSlice.ts';
import { trialRunReducer } from './trial/trialRunSlice.ts';

export const store = configureStore({
  reducer: {
    crate: crateReducer,
    map: mapReducer,
    view: viewReducer,
    asking: askingReducer,
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
