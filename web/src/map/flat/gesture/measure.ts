import { clickOnly } from './gesture.ts';

/** Adds a point to what is measured. */
export const measurePoint = clickOnly('measure', ({ doc: { view }, projection }, { at, sheet }) => ({
  view: { measure: [...view.measure, projection.pointAt(projection.snapped(at, sheet.scale))] },
}));
