import { describe, expect, it } from '@jest/globals';
import { encode } from 'fast-png';
import { applyEdit } from '../document/edit.ts';
import { testWorld } from '../testing/world.ts';
import { bookmarkViews, checkPicture } from './pictures.ts';
import { MOST_PICTURES } from './takenPictures.ts';

const picture = (level: number, width = 64, height = 36) =>
  encode({ width, height, data: new Uint8Array(width * height * 3).fill(level), channels: 3, depth: 8 });
const codes = (png: Uint8Array) => checkPicture(png, 'pictures/01.png', { width: 64, height: 36 }).map(({ code }) => code);

describe('pictures of a release', () => {
  it('are what bookmarks show, by name, twelve at most', () => {
    const world = testWorld();
    const bookmarks = Array.from({ length: 14 }, (_, n) => ({
      of: 'bookmarks' as const,
      id: `k${n + 1}`,
      to: {
        name: `view ${String.fromCharCode(110 - n)}`,
        position: [n, 0, 64] as [number, number, number],
        target: [n, 10, 64] as [number, number, number],
      },
    }));
    world.crate.maps.hall = applyEdit(world.crate.maps.hall, { name: 'x', changes: bookmarks });
    const views = bookmarkViews(world, 'hall');
    expect(views).toHaveLength(MOST_PICTURES);
    expect(views[0]).toMatchObject({
      name: 'view a',
      view: { eye: [13, 0, 64], direction: [0, 10, 0], width: world.profile.package.thumbnailWidth },
    });
  });

  it('that are too small or too dark to say anything are told', () => {
    expect(codes(picture(120))).toEqual([]);
    expect(codes(picture(120, 32, 18))).toEqual(['picture-small']);
    expect(codes(picture(6))).toEqual(['picture-dark']);
  });
});
