import { describe, expect, test } from '@jest/globals';
import { NO_SHEETS, sectionSheet, withSection } from './sheets.ts';

const sheets = { plan: { scale: 2, centre: [10, 20] as [number, number] }, height: 5, oblique: { scale: 7, centre: [1, 2] as [number, number] } };

describe('plan and section', () => {
  test('share scale and scroll along the axis of the section line', () => {
    expect(sectionSheet(sheets, 0)).toEqual({ scale: 2, centre: [10, 5] });
    expect(sectionSheet(sheets, 1)).toEqual({ scale: 2, centre: [20, 5] });
  });
  test('an oblique section has a sheet of its own', () => {
    expect(sectionSheet(sheets, null)).toEqual(sheets.oblique);
    expect(withSection(sheets, null, { scale: 1, centre: [0, 0] })).toEqual({ ...sheets, oblique: { scale: 1, centre: [0, 0] } });
  });
  test('moving the section moves the plan along the shared axis only', () => {
    const moved = withSection(sheets, 1, { scale: 3, centre: [50, -8] });
    expect(moved).toEqual({ ...sheets, plan: { scale: 3, centre: [10, 50] }, height: -8 });
    expect(sectionSheet(moved, 1)).toEqual({ scale: 3, centre: [50, -8] });
  });
  test('nothing is shown before the plan has a size', () => {
    expect(sectionSheet(NO_SHEETS, 0)).toBeNull();
    expect(withSection(NO_SHEETS, 0, { scale: 1, centre: [0, 0] })).toBe(NO_SHEETS);
  });
});
