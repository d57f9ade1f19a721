import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { Job, JobPicture } from '../api/types.ts';

export interface JobsState {
  byId: Record<string, Job>;
  /** Pictures of running builds by job. */
  pictures: Record<string, JobPicture>;
  connected: boolean;
}

const slice = createSlice({
  name: 'jobs',
  initialState: { byId: {}, pictures: {}, connected: false } as JobsState,
  reducers: {
    jobsLoaded(state, action: PayloadAction<Job[]>) {
      for (const job of action.payload) state.byId[job.id] = job;
    },
    jobChanged(state, action: PayloadAction<Job>) {
      state.byId[action.payload.id] = action.payload;
    },
    pictured(state, action: PayloadAction<JobPicture>) {
      state.pictures[action.payload.jobId] = action.payload;
    },
    /** The build has ended, and what came of it is known. */
    pictureGone(state, action: PayloadAction<string>) {
      delete state.pictures[action.payload];
    },
    connection(state, action: PayloadAction<boolean>) {
      state.connected = action.payload;
    },
  },
});

export const { jobsLoaded, jobChanged, pictured, pictureGone, connection } = slice.actions;
export const jobsReducer = slice.reducer;

/** Whether a job is not over; a paused one waits to be resumed. */
export const isActive = (job: Job): boolean => job.state === 'queued' || job.state === 'running' || job.state === 'paused';
