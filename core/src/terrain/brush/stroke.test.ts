import { describe, expect, it } from '@jest/globals';
import { applyEdit, invertEdit } from '../../document/edit.ts';
import { shaped, terrain } from '../../testing/terrains.ts';
import { groundOf, type Ground } from '../ground.ts';
import { tileThings } from '../tile.ts';
import { PLAIN_BRUSH, reachAt, type BrushKind, type BrushSettings } from './brush.ts';
import { Stroke } from './stroke.ts';

const frame = terrain([300, 200], { spacing: 1 });
const flat = () => shaped(frame, () => 10);
const hilly = () => shaped(frame, (i, j) => 10 + Math.sin(i / 7) * 4 + Math.cos(j / 5) * 3);

function draw(
  before: { map: Parameters<typeof applyEdit>[0]; ground: Ground },
  kind: BrushKind,
  settings: Partial<BrushSettings>,
  ...way: [number, number][]
) {
  const stroke = new Stroke(before.ground, kind, { ...PLAIN_BRUSH, radius: 10, strength: 1, ...settings });
  for (const [x, y] of way) stroke.to(x, y);
  const edit = { name: kind, changes: stroke.finish() };
  const map = edit.changes.length > 0 ? applyEdit(before.map, edit) : before.map;
  return { map, ground: groundOf(map, 'e1')!, edit, stroke };
}

const mass = (ground: Ground) => ground.grid().reduce((a, b) => a + b, 0);
const roughness = (ground: Ground) => {
  let sum = 0;
  for (let j = 90; j < 110; j++)
    for (let i = 90; i < 110; i++)
      sum += Math.abs(4 * ground.at(i, j) - ground.at(i - 1, j) - ground.at(i + 1, j) - ground.at(i, j - 1) - ground.at(i, j + 1));
  return sum;
};

describe('strokes', () => {
  it('raise and lower within the radius and nowhere else, and are undone exactly', () => {
    const before = flat();
    for (const [kind, sign] of [
      ['raise', 1],
      ['lower', -1],
    ] as const) {
      const { map, ground, edit } = draw(before, kind, {}, [128, 100]);
      expect(Math.sign(ground.at(128, 100) - 10)).toBe(sign);
      expect([ground.at(128, 111), ground.at(117, 100)]).toEqual([10, 10]);
      // Two tiles meet under the brush, and no others.
      expect(edit.changes.map((change) => (change as { id: string }).id).sort()).toEqual(['e1_0_0', 'e1_1_0']);
      expect(applyEdit(map, invertEdit(before.map, edit)).tiles).toEqual(before.map.tiles);
    }
  });

  it('flatten goes to where the stroke began, to height to what is typed, incline to a slope between both ends', () => {
    const before = hilly();
    const start = before.ground.at(50, 50);
    const flattened = draw(before, 'flatten', { fade: 0.05 }, [50, 50], [80, 50]);
    expect(flattened.ground.at(75, 50)).toBeCloseTo(start, 3);
    const level = draw(before, 'level', { height: 33, fade: 0.05 }, [50, 50]);
    expect(level.ground.at(52, 51)).toBeCloseTo(33, 3);
    const { ground } = draw(before, 'incline', { fade: 0.05 }, [50, 50], [80, 50]);
    const [a, b] = [before.ground.at(50, 50), before.ground.at(80, 50)];
    expect(ground.at(77, 50)).toBeCloseTo(a + ((b - a) * 27) / 30, 1);
  });

  it('smooth makes it smoother, roughen rougher by seed, terraces level', () => {
    const before = hilly();
    expect(roughness(draw(before, 'smooth', {}, [100, 100]).ground)).toBeLessThan(roughness(before.ground));
    const rough = (seed: number) => draw(before, 'roughen', { seed, size: 4 }, [100, 100]);
    expect(roughness(rough(1).ground)).toBeGreaterThan(roughness(before.ground));
    expect(rough(1).map.tiles).toEqual(rough(1).map.tiles);
    expect(JSON.stringify(rough(1).map.tiles)).not.toBe(JSON.stringify(rough(2).map.tiles));
    const slope = shaped(frame, (i) => i * 0.5);
    const steps = draw(slope, 'terrace', { step: 4, fade: 0.05 }, [100, 100]);
    expect(steps.ground.at(100, 100)).toBe(48);
    expect(steps.ground.at(97, 100)).toBe(48);
  });

  it.each(['weather', 'rain'] as const)('%s keeps the mass within a thousandth', (kind) => {
    const before = shaped(frame, (i, j) => (Math.hypot(i - 100, j - 100) < 8 ? 60 : 10));
    const { ground } = draw(before, kind, { rest: 30, radius: 25 }, [100, 100], [104, 100], [96, 100]);
    expect(ground.at(100, 108)).not.toBe(before.ground.at(100, 108));
    expect(Math.abs(mass(ground) - mass(before.ground))).toBeLessThan(mass(before.ground) * 1e-3);
  });

  it('stamps a picture once, bright is high', () => {
    const picture = { width: 2, height: 2, values: Float32Array.from([0, 1, 0, 1]) };
    const { ground } = draw(flat(), 'stamp', { picture, height: 8, fade: 0.01 }, [100, 100], [130, 100]);
    expect(ground.at(107, 100)).toBeGreaterThan(ground.at(93, 100));
    expect(ground.at(130, 100)).toBe(10);
  });

  it('protected ground stays, and is released again', () => {
    const guarded = draw(flat(), 'protect', { fade: 0.05 }, [100, 100]);
    expect(draw(guarded, 'raise', {}, [100, 100]).ground.at(100, 100)).toBe(10);
    const free = draw(guarded, 'release', { fade: 0.05, radius: 14 }, [100, 100]);
    expect(draw(free, 'raise', {}, [100, 100]).ground.at(100, 100)).toBeGreaterThan(10);
  });

  it('paints within limits of slope, and gives back what rules say', () => {
    const before = shaped(frame, (i) => (i < 100 ? 0 : (i - 100) * 2));
    const painted = draw(before, 'paint', { what: 'rock', slope: [30, 90], fade: 0.05 }, [100, 100]);
    expect(painted.ground.weightsAt(106, 100)).toEqual([0, 1]);
    expect(painted.ground.weightsAt(94, 100)).toEqual([1, 0]);
    expect(draw(painted, 'unpaint', { fade: 0.05, radius: 20 }, [100, 100]).ground.weightsAt(106, 100)).toEqual([1, 0]);
  });

  it('cuts holes and fills them', () => {
    const holed = draw(flat(), 'hole', {}, [100, 100]);
    expect([holed.ground.heightAt(100, 100), holed.ground.heightAt(120, 100)]).toEqual([null, 10]);
    expect(draw(holed, 'fill', { radius: 20 }, [100, 100]).ground.heightAt(100, 100)).toBe(10);
  });

  it('scatters no nearer than the distance, over tile borders too, and clears', () => {
    const before = flat();
    const { ground, map } = draw(before, 'scatter', { what: 'pine', apart: 3, radius: 20 }, [128, 128]);
    const all = ground.tiles.flatMap((tile) => (tile ? tileThings(tile, 'placed').map(({ x, y }) => [tile.x * 128 + x, tile.y * 128 + y]) : []));
    expect(all.length).toBeGreaterThan(20);
    for (let a = 0; a < all.length; a++)
      for (let b = 0; b < a; b++) expect(Math.hypot(all[a][0] - all[b][0], all[a][1] - all[b][1])).toBeGreaterThan(2.98);
    const cleared = draw({ map, ground }, 'clear', { radius: 40 }, [128, 128]);
    expect(cleared.ground.tiles.flatMap((tile) => (tile ? tileThings(tile, 'placed') : []))).toEqual([]);
  });

  it('mirrors about the middle of the ground, and snaps to samples', () => {
    const { ground } = draw(flat(), 'raise', { mirror: 'both' }, [20, 20]);
    for (const [i, j] of [
      [20, 20],
      [279, 20],
      [20, 179],
      [279, 179],
    ])
      expect(ground.at(i, j)).toBeGreaterThan(10);
    const snapped = draw(flat(), 'raise', { snap: true }, [20.4, 20.4]);
    expect(snapped.ground.at(18, 20)).toBe(snapped.ground.at(22, 20));
  });

  it('fades from its inner part to nothing at the radius', () => {
    expect([reachAt(0, 10, 0.5), reachAt(5, 10, 0.5), reachAt(7.5, 10, 0.5), reachAt(10, 10, 0.5)]).toEqual([1, 1, 0.5, 0]);
  });
});
