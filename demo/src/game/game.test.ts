import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from '@jest/globals';
import { collisionOf, encodeCollision } from '@violet-crate/core/stages/pack/collisionBin';
import { encodeNavigation } from '@violet-crate/core/stages/pack/navBin';
import { buildGround } from '@violet-crate/core/stages/ground/stage';
import { encodeTerrains } from '@violet-crate/core/stages/pack/terrainBin';
import { heightOn, readCollision, readGlb, readKtx2, readNavigation, readTerrain, readVisibility } from './readers.ts';

const cube = {
  grounds: [],
  surfaces: ['stone'],
  solids: [
    {
      id: 's1',
      planes: [
        [1, 0, 0, 8],
        [-1, 0, 0, 8],
      ] as [number, number, number, number][],
      surfaces: ['stone', ''],
    },
  ],
};

describe('the stand-in game', () => {
  it('knows nothing of ours: it imports Node.js, its own files and Lua', () => {
    const folder = import.meta.dirname;
    for (const file of readdirSync(folder).filter((name) => name.endsWith('.js') && !name.endsWith('.test.js')))
      for (const [, from] of readFileSync(join(folder, file), 'utf8').matchAll(/from '([^']+)'/g))
        expect([file, from]).toEqual([file, expect.stringMatching(/^(node:|\.\/|wasmoon$)/)]);
  });

  it('reads what a build writes', () => {
    expect(readCollision(encodeCollision(cube as never)).solids).toEqual([{ id: 's1', planes: cube.solids[0].planes }]);
    const mesh = {
      vertices: [
        [0, 0, 0],
        [1, 0, 0],
        [0, 1, 0],
      ] as [number, number, number][],
      polygons: [{ corners: [0, 1, 2], neighbours: [-1, -1, -1] }],
      links: [{ from: [0, 0, 0] as [number, number, number], to: [1, 1, 1] as [number, number, number], fromArea: 0, toArea: 0 }],
      detour: new Uint8Array([1, 2, 3]),
    };
    expect(readNavigation(encodeNavigation(mesh))).toEqual({ polygons: 1, links: 1 });
  });

  it('reads ground: what stops players, and what is drawn', () => {
    const terrain = {
      name: 'ridge',
      origin: [0, 0],
      spacing: 2,
      samples: [129, 65],
      range: [0, 100],
      depth: 'f32',
      base: 12,
      surfaces: [{ id: 'snow', label: 'Snow', material: 'snow' }],
      things: [],
      paint: {},
      scatter: {},
    };
    const { grounds } = buildGround(
      {
        terrains: { e1: terrain as never },
        tiles: {},
        feels: { snow: 'snow' },
        mostThings: null,
        parameters: { groundError: 0.5, groundLevels: 1 },
      },
      () => {},
    );
    const read = readCollision(encodeCollision(collisionOf({}, grounds)));
    expect(read.solids).toEqual([]);
    expect(heightOn(read.grounds[0], 33.3, 71.9)).toBe(12);
    expect(heightOn(read.grounds[0], 257, 71.9)).toBeNull();
    const [{ id, triangles, things }] = readTerrain(encodeTerrains(grounds, null));
    expect([id, things]).toEqual(['e1', 0]);
    expect(triangles).toBe(grounds[0].blocks.reduce((sum, { indices }) => sum + indices.length / 3, 0));
  });

  it('refuses what is cut off, of another version, or something else, and says which file', () => {
    const bytes = encodeCollision(cube as never);
    expect(() => readCollision(bytes.slice(0, bytes.length - 3))).toThrow(/collision.bin: ends at byte/);
    expect(() => readCollision(new Uint8Array([...bytes, 0]))).toThrow(/1 bytes too many/);
    const newer = bytes.slice();
    newer[4] = 9;
    expect(() => readCollision(newer)).toThrow(/version 9, this game reads 3/);
    expect(() => readVisibility(bytes)).toThrow(/begins with "VCCO", not with VCVS/);
    expect(() => readKtx2(new Uint8Array(100), 'light.ktx2')).toThrow(/light.ktx2: is no KTX 2.0 picture/);
    expect(() => readGlb(new Uint8Array(100), 'map.glb')).toThrow(/map.glb: is no GLB/);
  });
});
