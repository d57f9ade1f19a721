import { describe, expect, it } from '@jest/globals';
import { WebIO, type Document } from '@gltf-transform/core';
import { tangents as referenceTangents, unweld } from '@gltf-transform/functions';
import fc from 'fast-check';
import { encode } from 'fast-png';
import manifoldModule from 'manifold-3d';
import { generateTangents } from 'mikktspace';
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import type { Mesh } from 'three';
import { glbErrors } from '../../testing/glb.ts';
import { bendingGlb, bunny, bunnyObj, bytesOf, CUBE } from '../../testing/models.ts';
import { testProfile } from '../../testing/world.ts';
import { convertModel, type ConvertedModel } from './convert.ts';
import { convexHull } from './geometry/hull.ts';
import { chooseSlots, likeness } from './model/materialSlots.ts';
import { newModel, triangleCount, type ModelPart } from './model/model.ts';
import type { ModelOptions } from './model/options.ts';
import { readGltf } from './read/readGltf.ts';
import { readObj } from './read/readObj.ts';
import { boundsOf, isClosed, surfaceOf, volumeOf } from './geometry/surface.ts';
import { triangulate } from './geometry/triangulate.ts';
import { resolveUnit } from './check/unit.ts';
import { lightmapOverlap } from './check/uvCheck.ts';
import { weld } from './geometry/weld.ts';

const profile = testProfile();
const convert = (
  text: string,
  options: Partial<ModelOptions> = {},
  more: { file?: string; companions?: Map<string, Uint8Array>; materials?: string[] } = {},
) =>
  convertModel(
    profile,
    { file: more.file ?? 'cube.obj', bytes: bytesOf(text), companions: more.companions, materials: more.materials },
    { unit: 'm', collision: 'none', ...options },
  );
const codes = (model: ConvertedModel) => model.findings.map((f) => f.code);
const fixOf = (model: ConvertedModel, code: string) => {
  const fix = model.findings.find((f) => f.code === code)?.fix;
  return fix?.kind === 'reconvert' ? (fix.options as Partial<ModelOptions>) : {};
};
const volume = async (glb: Uint8Array) => {
  const { positions, indices } = surfaceOf((await readGltf(glb, 'x.glb')).parts, null);
  return volumeOf(positions, indices);
};

describe('OBJ', () => {
  it('reads faces with positive and negative indices, comments, continued lines and Windows line ends', () => {
    expect(triangleCount(readObj(bytesOf(CUBE), 'cube.obj'))).toBe(12);
    const odd = CUBE.replace('v -0.5 -0.5 -0.5', 'v -0.5 \\\n -0.5 -0.5 # a corner').replaceAll('\n', '\r\n');
    expect(triangleCount(readObj(bytesOf(odd), 'cube.obj'))).toBe(12);
  });

  it('triangulates concave polygons within their outline', () => {
    const area = (p: ArrayLike<number>, [a, b, c]: number[]) =>
      Math.abs((p[b * 3] - p[a * 3]) * (p[c * 3 + 1] - p[a * 3 + 1]) - (p[c * 3] - p[a * 3]) * (p[b * 3 + 1] - p[a * 3 + 1])) / 2;
    const arrow = [0, 0, 0, 4, 0, 0, 4, 4, 0, 2, 1, 0, 0, 4, 0];
    const triangles = triangulate([0, 1, 2, 3, 4], arrow);
    let sum = 0;
    for (let i = 0; i < triangles.length; i += 3) sum += area(arrow, triangles.slice(i, i + 3));
    // Shoelace formula over the outline.
    expect(sum).toBeCloseTo(10, 6);
    // A concave quad must not be fanned over its notch.
    const notch = [0, 0, 0, 4, 0, 0, 1, 1, 0, 0, 4, 0];
    const two = triangulate([0, 1, 2, 3], notch);
    expect(area(notch, two.slice(0, 3)) + area(notch, two.slice(3))).toBeCloseTo(4, 6);
  });

  // Outside reference: three's OBJLoader.
  it('has as many triangles as OBJLoader finds, on generated meshes', () => {
    const coordinate = fc.double({ min: -9, max: 9, noNaN: true });
    fc.assert(
      fc.property(
        fc.array(fc.tuple(coordinate, coordinate, coordinate), { minLength: 4, maxLength: 30 }),
        fc.array(fc.nat(1000), { minLength: 1, maxLength: 40 }),
        (points, seeds) => {
          const lines = points.map((p) => `v ${p.join(' ')}`);
          for (const s of seeds) lines.push(`f ${[s, s + 1, s + 2].map((k) => (k % points.length) + 1).join(' ')}`);
          const text = lines.join('\n');
          const theirs = (new OBJLoader().parse(text).children[0] as Mesh).geometry.getAttribute('position').count / 3;
          expect(triangleCount(readObj(bytesOf(text), 'x.obj'))).toBe(theirs);
        },
      ),
      { numRuns: 50 },
    );
  });

  it.each([
    ['v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n', /x\.obj:4: face refers to vertex 9, but there are 3/],
    ['v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 -4\n', /x\.obj:4: face refers to vertex -4, but there are 3/],
    ['v 0 0\n', /x\.obj:1: "v" needs 3 numbers/],
    ['v 0 0 zero\n', /x\.obj:1: "v" needs 3 numbers/],
    ['v 0 0 1e39\n', /x\.obj:1: "v" needs 3 numbers/],
    ['v 0 0 0\nv 1 0 0\nf 1 2\n', /x\.obj:3: a face needs at least 3 corners/],
    ['v 0 0 0\nf 0 0 0\n', /x\.obj:2: face index "0"/],
    ['v 0 0 0\nf 1a 1 1\n', /x\.obj:2: face index "1a"/],
    ['v 0 0 0\nf 1/5 1 1\n', /x\.obj:2: face refers to texture coordinate 5, but there are 0/],
    ['# nothing\n', /has no faces/],
    ['v 0\0 0', /not text, so not an OBJ file \(byte 3\)/],
  ])('says what is wrong and where: %j', (text, message) => {
    expect(() => readObj(bytesOf(text), 'x.obj')).toThrow(message);
  });
});

describe('conversion', () => {
  // Outside reference: the Khronos glTF validator.
  it('writes GLBs without errors by the Khronos validator, whatever the settings', async () => {
    const options: Partial<ModelOptions>[] = [
      {},
      { normals: 'smooth', lods: [0.5] },
      { normals: 'flat', pivot: 'base', collision: 'box' },
      { upAxis: 'z', unit: 'cm', collision: 'hull', handedness: 'left' },
      { collision: 'parts', movable: true },
      { collision: 'exact', tidy: true, winding: 'repair' },
    ];
    for (const own of options) expect(await glbErrors((await convert(CUBE, own)).glb)).toEqual([]);
    for (const own of [{}, { pivot: 'base' as const, lods: [0.5] }]) {
      const bar = await convertModel(profile, { file: 'bar.glb', bytes: await bendingGlb() }, own);
      expect(await glbErrors(bar.glb)).toEqual([]);
    }
  });

  it('scales by unit and turns axes without mirroring', async () => {
    const tall = CUBE.replaceAll(/^v (\S+) (\S+) (\S+)$/gm, (_, x: string, y: string, z: string) => `v ${x} ${y} ${Number(z) * 3}`);
    const zUp = await convert(tall, { upAxis: 'z' });
    expect(zUp.bounds).toEqual({ min: [-16, -16, -48], max: [16, 16, 48] });
    const yUp = await convert(tall, { upAxis: 'y' });
    expect(yUp.bounds).toEqual({ min: [-16, -48, -16], max: [16, 48, 16] });
    expect(await volume(zUp.glb)).toBeCloseTo(3, 4);
    expect(await volume(yUp.glb)).toBeCloseTo(3, 4);
    expect((await convert(tall, { unit: 'game', upAxis: 'z' })).bounds.max[2]).toBe(1.5);
    // A left-handed source is mirrored on purpose, and its triangles still face outwards.
    const left = await convert(tall.replaceAll('-0.5', '0'), { handedness: 'left' });
    expect(left.bounds.max[1] - left.bounds.min[1]).toBe(96);
    expect(await volume(left.glb)).toBeGreaterThan(0);
  });

  it('takes the unit that fits the player figure, and says why', async () => {
    const player = { min: profile.player.height * profile.unit.metres };
    expect(player.min).toBeCloseTo(1.75, 2);
    const guessed = await convert(CUBE.replaceAll('0.5', '50'), { unit: 'auto' });
    expect(guessed.options.unit).toBe('cm');
    expect(guessed.findings.find((f) => f.code === 'model-unit-guessed')?.message).toMatch(
      /in metres it would be 100 m large, in centimetres it is 1 m beside a player of 1\.8 m/,
    );
    expect((await convert(CUBE.replaceAll('0.5', '50'), fixOf(guessed, 'model-unit-guessed'))).bounds.max[0]).toBe(1600);
    expect(resolveUnit(profile, { unit: 'auto', upAxis: 'auto' }, { metres: 0.0254 }, 10)).toMatchObject({ unit: 'in', metres: 0.0254 });
    expect(resolveUnit(profile, { unit: 'auto', upAxis: 'auto' }, undefined, 1).guess).toBeUndefined();
  });

  it('puts the pivot where it is wanted', async () => {
    const away = CUBE.replaceAll(/^v (\S+) (\S+) (\S+)$/gm, (_, x: string, y: string, z: string) => `v ${Number(x) + 3} ${Number(y) + 1} ${z}`);
    expect((await convert(away, { pivot: 'base' })).bounds).toEqual({ min: [-16, -16, 0], max: [16, 16, 32] });
    expect((await convert(away, { pivot: 'centre' })).bounds).toEqual({ min: [-16, -16, -16], max: [16, 16, 16] });
    const based = await convert(away, { pivot: 'base' });
    expect(based.pivotAt).toEqual([96, 0, 16]);
    // Picking the present pivot anew changes nothing.
    expect((await convert(away, { pivot: 'point', pivotPoint: based.pivotAt })).bounds).toEqual(based.bounds);
    // The one object of a glTF file stands on its own origin unless the world's is asked for.
    const document = await new WebIO().readBinary((await convert(CUBE)).glb);
    document.getRoot().listNodes()[0].setTranslation([5, 0, 0]);
    const moved = await new WebIO().writeBinary(document);
    expect((await convertModel(profile, { file: 'm.glb', bytes: moved }, { pivot: 'file' })).bounds.max[0]).toBe(16);
    expect((await convertModel(profile, { file: 'm.glb', bytes: moved }, { pivot: 'world' })).bounds.max[0]).toBe(176);
  });

  it('smooths under the angle and keeps hard edges above it', async () => {
    const vertices = async (angle: number) => (await convert(CUBE, { normals: 'smooth', smoothAngle: angle })).vertices;
    expect(await vertices(40)).toBe(24);
    expect(await vertices(100)).toBe(8);
  });

  it('welds what is identical, and with a distance what is near', () => {
    const part: ModelPart = {
      name: 'p',
      material: '',
      positions: Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0, 1.001, 0, 0, 0, 1, 0, 1, 1, 0]),
      normals: null,
      uvs: null,
      indices: Uint32Array.from([0, 1, 2, 3, 4, 5]),
    };
    expect(weld(part, 0).positions.length / 3).toBe(5);
    expect(weld(part, 0.01).positions.length / 3).toBe(4);
    expect(weld(part, 0.01).indices.length).toBe(6);
  });

  // Outside reference: @gltf-transform/functions over the same MikkTSpace.
  it('makes the tangents that @gltf-transform makes', async () => {
    const withUvs = `${CUBE.split('\nf')[0]}\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nf 4/1 3/2 2/3 1/4\nf 5/1 6/2 7/3 8/4\n`;
    const ours = await convert(withUvs, { tangents: 'make' });
    const bare = await new WebIO().readBinary((await convert(withUvs, { tangents: 'none' })).glb);
    await bare.transform(unweld(), referenceTangents({ generateTangents }));
    const sorted = (document: Document) => {
      const primitive = document.getRoot().listScenes()[0].listChildren()[0].getMesh()!.listPrimitives()[0];
      const [p, t] = ['POSITION', 'TANGENT'].map((name) => primitive.getAttribute(name)!);
      const corners: ArrayLike<number> = primitive.getIndices()?.getArray() ?? Array.from({ length: p.getCount() }, (_, i) => i);
      return Array.from(corners, (i) => [...p.getElement(i, []), ...t.getElement(i, [])].map((v) => Math.round(v * 1e4) / 1e4 + 0).join()).sort();
    };
    expect(sorted(await new WebIO().readBinary(ours.glb))).toEqual(sorted(bare));
    expect(await glbErrors(ours.glb)).toEqual([]);
  });

  it('a GLB goes through unchanged in size, twice', async () => {
    const first = await convert(CUBE, { normals: 'flat' });
    const again = await convertModel(profile, { file: 'cube.glb', bytes: first.glb });
    expect(again.bounds).toEqual({ min: [-16, -16, -16], max: [16, 16, 16] });
    expect(again.triangles).toBe(12);
    expect((await convertModel(profile, { file: 'cube.glb', bytes: first.glb })).glb).toEqual(again.glb);
  });

  it('keeps clips and bones, and stands a bending model on its pivot', async () => {
    const bar = await convertModel(profile, { file: 'bar.glb', bytes: await bendingGlb() }, { pivot: 'centre' });
    expect(bar).toMatchObject({ clips: ['bend'], bones: 2 });
    expect(bar.bounds.min[2]).toBeCloseTo(-32, 3);
    const again = await readGltf(bar.glb, 'bar.glb');
    expect(again.rig!.clips[0].channels[0].values[6]).toBeCloseTo(Math.SQRT1_2, 6);
    expect(boundsOf(surfaceOf(again.parts, again.rig).positions).max[1]).toBeCloseTo(1, 5);
  });

  it('embeds the model’s picture as KTX2, and names one that is broken', async () => {
    const png = encode({ width: 8, height: 8, data: new Uint8Array(192).fill(120), channels: 3, depth: 8 });
    const textured = `mtllib a.mtl\nusemtl skin\n${CUBE.split('\nf')[0]}\nvt 0 0\nvt 1 0\nvt 1 1\nf 1/1 2/2 3/3\n`;
    const mtl = bytesOf('newmtl skin\nKd 1 1 1\nmap_Kd -s 1 1 1 Skin.png\n');
    const model = await convert(
      textured,
      {},
      {
        companions: new Map([
          ['a.mtl', mtl],
          ['skin.png', png],
        ]),
      },
    );
    expect(codes(model)).toContain('model-texture-near');
    const document = await new WebIO().registerExtensions((await import('@gltf-transform/extensions')).ALL_EXTENSIONS).readBinary(model.glb);
    expect(
      document
        .getRoot()
        .listTextures()
        .map((t) => t.getMimeType()),
    ).toEqual(['image/ktx2']);
    expect(
      document
        .getRoot()
        .listExtensionsRequired()
        .map((e) => e.extensionName),
    ).toEqual(['KHR_texture_basisu']);
    expect(await glbErrors(model.glb)).toEqual([]);
    const broken = await convert(
      textured,
      {},
      {
        companions: new Map([
          ['a.mtl', mtl],
          ['skin.png', png.slice(0, 50)],
        ]),
      },
    );
    expect(codes(broken)).toContain('model-texture-broken');
    expect(codes(await convert(textured, {}, { companions: new Map([['a.mtl', mtl]]) }))).toContain('model-texture-missing');
  });
});

describe('findings and their fixes', () => {
  const cured = async (text: string, code: string, options: Partial<ModelOptions> = {}) => {
    const first = await convert(text, options);
    expect(codes(first)).toContain(code);
    const second = await convert(text, fixOf(first, code));
    expect(codes(second)).not.toContain(code);
    return { first, second };
  };

  it('sinks, floats and stands beside its pivot', async () => {
    const { first, second } = await cured(CUBE, 'model-sinks');
    expect(first.findings.find((f) => f.code === 'model-sinks')!.message).toContain('50 %');
    expect(second.bounds.min[2]).toBe(0);
    const lifted = (x: number, y: number) =>
      CUBE.replaceAll(/^v (\S+) (\S+) (\S+)$/gm, (_, a: string, b: string, c: string) => `v ${Number(a) + x} ${Number(b) + y} ${c}`);
    await cured(lifted(0, 2), 'model-floats');
    await cured(lifted(4, 0.5), 'model-off-pivot');
  });

  it('is out of all proportion', async () => {
    const huge = await convert(CUBE.replaceAll('0.5', '50'));
    expect(huge.findings.find((f) => f.code === 'model-large')?.fix).toMatchObject({ options: { unit: 'cm' } });
    expect(codes(await convert(CUBE, { unit: 'mm' }))).toContain('model-small');
  });

  it('has no normals, no smoothing, no texture coordinates', async () => {
    expect(codes(await convert(CUBE))).toEqual(expect.arrayContaining(['model-no-normals', 'model-no-uvs']));
    const faceted = await convertModel(profile, { file: 'bunny.obj', bytes: bunnyObj() }, { unit: 'm', collision: 'none', normals: 'flat' });
    const again = await convertModel(profile, { file: 'bunny.glb', bytes: faceted.glb }, { collision: 'none' });
    expect(codes(again)).toContain('model-no-smoothing');
    const smooth = await convertModel(
      profile,
      { file: 'bunny.glb', bytes: faceted.glb },
      { collision: 'none', ...fixOf(again, 'model-no-smoothing') },
    );
    expect(smooth.vertices).toBeLessThan(faceted.vertices / 1.3);
  });

  it('has faces without area, twice, inside out, disagreeing or branching; and says which', async () => {
    await cured(`${CUBE}f 1 1 2\n`, 'model-flat-faces');
    const { first } = await cured(`${CUBE}f 4 3 2\n`, 'model-double-faces');
    expect(first.findings.find((f) => f.code === 'model-double-faces')?.place).toMatchObject({ part: 'cube', triangles: [12] });
    const inside = CUBE.replaceAll(/^f (\S+) (\S+) (\S+) (\S+)$/gm, 'f $4 $3 $2 $1');
    const { second } = await cured(inside, 'model-inside-out');
    expect(await volume(second.glb)).toBeCloseTo(1, 5);
    const one = CUBE.replace('f 5 6 7 8', 'f 8 7 6 5');
    const repaired = (await cured(one, 'model-winding')).second;
    expect(await volume(repaired.glb)).toBeCloseTo(1, 5);
    expect(codes(await convert(`${CUBE}v 0 0 2\nf 5 6 9\n`))).toContain('model-non-manifold');
  });

  it('has no size, or hardly any area: that stops it, with a guess at the cause', async () => {
    const flattened = await convert(CUBE.replaceAll(/^v (\S+) (\S+) (\S+)$/gm, 'v $1 0 0'));
    expect(flattened.findings.find((f) => f.code === 'model-degenerate')).toMatchObject({
      severity: 'blocker',
      message: '12 of 12 triangles of cube.obj have no area, so hardly anything of it would show.',
      hint: expect.stringContaining('collapsed an axis'),
    });
    const point = await convert(CUBE.replaceAll(/^v (\S+) (\S+) (\S+)$/gm, 'v 1 1 1'));
    expect(point.findings.find((f) => f.code === 'model-no-size')).toMatchObject({
      severity: 'blocker',
      hint: expect.stringContaining('scale of 0'),
    });
  });

  it('names its materials as it likes', async () => {
    const named = await convert(`usemtl constructor\n${CUBE}usemtl __proto__\nf 1 2 3\n`);
    expect(named.slots.map((slot) => slot.slot).sort()).toEqual(['__proto__', 'constructor']);
    expect((await glbErrors(named.glb)).length).toBe(0);
    // Comparing names takes the square of their length, so only their beginning counts.
    const long = 'moss_'.repeat(200_000);
    expect(chooseSlots([{ name: long, hasPicture: false }], [`${long}x`], {})[0]).toMatchObject({ material: `${long}x` });
  });

  it('a hollow’s inner skin is no fault', async () => {
    const inner = CUBE.replaceAll('0.5', '0.25').replaceAll(
      /^f (\S+) (\S+) (\S+) (\S+)$/gm,
      (_, ...n: string[]) =>
        `f ${n
          .slice(0, 4)
          .reverse()
          .map((i) => (Number(i) > 0 ? Number(i) + 8 : i))
          .join(' ')}`,
    );
    expect(codes(await convert(CUBE + inner))).not.toContain('model-inside-out');
  });

  it('is over the budget of the profile', async () => {
    const small = { ...profile, models: { ...profile.models, maxTriangles: 10, maxMaterials: 1, maxBones: 1 } };
    const parts = CUBE.replace('f 5 6', 'usemtl other\nf 5 6');
    const found = await convertModel(small, { file: 'a.obj', bytes: bytesOf(parts) }, { unit: 'm' });
    expect(codes(found)).toEqual(expect.arrayContaining(['model-triangles', 'model-materials']));
    const bar = await convertModel(small, { file: 'bar.glb', bytes: await bendingGlb() });
    expect(codes(bar)).toContain('model-bones');
  });

  it('has collapsed or overlapping texture coordinates', async () => {
    const smeared = `${CUBE.split('\nf')[0]}\nvt 0 0\nvt 0.5 0.5\nvt 1 1\nf 1/1 2/2 3/3\n`;
    expect(codes(await convert(smeared))).toContain('model-uvs-collapsed');
    const square = (u: number): number[] => [u, 0, u + 0.4, 0, u + 0.4, 0.9];
    const part = (u: number): ModelPart => ({
      name: 'p',
      material: '',
      positions: Float32Array.from([0, 0, 0, 1, 0, 0, 1, 1, 0]),
      normals: null,
      uvs: null,
      lightUvs: Float32Array.from(square(u)),
      indices: Uint32Array.from([0, 1, 2]),
    });
    expect(lightmapOverlap([part(0), part(0.5)]).share).toBe(0);
    const half = lightmapOverlap([part(0), part(0.2)]);
    expect(half.share).toBeGreaterThan(0.1);
    expect(half.triangles).toEqual([0, 1]);
    expect(lightmapOverlap([part(0.9)]).outside).toBe(1);
  });

  it('normals that point into the surface', async () => {
    const into = `${CUBE.split('\nf')[0]}\nvn 0 0 1\nf 4//1 3//1 2//1 1//1\n`;
    await cured(into, 'model-normals-against');
  });

  it('movable without a shape that can move', async () => {
    await cured(CUBE, 'model-movable-without-shape', { movable: true });
    await cured(CUBE, 'model-movable-exact', { movable: true, collision: 'exact' });
    // Without its last face the cube holds no volume of its own.
    const open = CUBE.trimEnd().replace(/\n[^\n]*$/, '\n');
    expect(codes(await convert(open, { movable: true, collision: 'hull' }))).toContain('model-mass-guessed');
    expect(codes(await convert(open, { movable: true, collision: 'hull', mass: 4 }))).not.toContain('model-mass-guessed');
  });
});

describe('collision shapes', () => {
  // Outside references: Euler's formula for convex polyhedra, and manifold-3d's hull.
  it('hulls satisfy Euler’s formula and have the volume that manifold-3d finds', async () => {
    const wasm = await manifoldModule();
    wasm.setup();
    const { Manifold } = wasm;
    const check = (points: number[][]) => {
      const hull = convexHull(Float32Array.from(points.flat()))!;
      const edges = new Set<string>();
      for (let i = 0; i < hull.indices.length; i += 3)
        for (let k = 0; k < 3; k++) edges.add([hull.indices[i + k], hull.indices[i + ((k + 1) % 3)]].sort((a, b) => a - b).join());
      expect(hull.positions.length / 3 - edges.size + hull.indices.length / 3).toBe(2);
      const theirs = Manifold.hull(points.map((p) => [...p] as [number, number, number]));
      expect(volumeOf(hull.positions, hull.indices) / theirs.volume()).toBeCloseTo(1, 4);
      theirs.delete();
    };
    check(bunny.positions);
    const coordinate = fc.integer({ min: -40, max: 40 }).map((v) => v / 8);
    fc.assert(
      fc.property(fc.array(fc.tuple(coordinate, coordinate, coordinate), { minLength: 8, maxLength: 40 }), (points) => {
        if (convexHull(Float32Array.from(points.flat()))) check(points);
      }),
      { numRuns: 60 },
    );
  });

  it('of very many points hulls stay small and nearly as large', () => {
    const sphere = new Float32Array(3 * 20000);
    for (let i = 0; i < 20000; i++) {
      const [z, angle] = [1 - (2 * i + 1) / 20000, i * 2.399963];
      const r = Math.sqrt(1 - z * z);
      sphere.set([r * Math.cos(angle), r * Math.sin(angle), z], i * 3);
    }
    const hull = convexHull(sphere)!;
    expect(hull.positions.length / 3).toBeLessThanOrEqual(320);
    expect(volumeOf(hull.positions, hull.indices) / ((4 / 3) * Math.PI)).toBeGreaterThan(0.97);
  });

  it('flat models get a box with a little thickness', async () => {
    expect(convexHull(Float32Array.from([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 0.5, 0.5, 0]))).toBeNull();
    const sheet = await convert(`${CUBE.split('\nf')[0]}\nf 1 2 3 4\n`, { collision: 'hull' });
    expect(sheet.collision!.volume).toBeGreaterThan(0);
    expect(sheet.collision!.meshVolume).toBeNull();
  });

  it('several convex parts follow an L where one hull cannot', async () => {
    const bar = (x: number, z: number, offset: number) =>
      CUBE.replaceAll(
        /^v (\S+) (\S+) (\S+)$/gm,
        (_, a: string, b: string, c: string) => `v ${(Number(a) + 0.5) * x} ${(Number(b) + 0.5) * 1} ${(Number(c) + 0.5) * z}`,
      ).replaceAll(
        /^f (.*)$/gm,
        (_, list: string) =>
          `f ${list
            .split(' ')
            .map((i) => (Number(i) > 0 ? Number(i) + offset : i))
            .join(' ')}`,
      );
    const corner = bar(4, 1, 0) + bar(1, 4, 8);
    const hull = await convert(corner, { collision: 'hull' });
    const parts = await convert(corner, { collision: 'parts' });
    // By hand: the hull of the L is 16 minus the triangle 3 × 3 / 2 = 11.5; the L itself covers 7.
    expect(hull.collision!.volume).toBeCloseTo(11.5, 3);
    expect(parts.collision!.parts).toBeGreaterThan(1);
    expect(parts.collision!.volume).toBeLessThan(8.2);
    expect(parts.collision!.volume).toBeGreaterThan(6.9);
  });

  it('mass follows the volume unless it is given', async () => {
    expect((await convert(CUBE, { collision: 'hull' })).collision).toMatchObject({ volume: expect.closeTo(1, 5), mass: expect.closeTo(600, 2) });
    expect((await convert(CUBE, { collision: 'hull', mass: 12 })).collision!.mass).toBe(12);
  });
});

describe('levels of detail', () => {
  it('have fewer triangles, a measured error, and stay within it', async () => {
    const model = await convertModel(profile, { file: 'bunny.obj', bytes: bunnyObj() }, { unit: 'm', collision: 'none', lods: [0.5, 0.2] });
    const [half, fifth] = model.lods;
    expect(half.triangles / model.triangles).toBeCloseTo(0.5, 1);
    expect(fifth.triangles).toBeLessThan(half.triangles);
    expect(fifth.error).toBeGreaterThan(half.error);
    // The bunny is some ten metres large here; a fifth of its triangles still follow it closely.
    expect(fifth.error).toBeLessThan(0.3);
    expect(fifth.switchDistance).toBeGreaterThan(half.switchDistance);
    const document = await new WebIO().readBinary(model.glb);
    expect(
      document
        .getRoot()
        .listScenes()
        .map((s) => s.getName()),
    ).toEqual(['model', 'lod1', 'lod2']);
    expect(await glbErrors(model.glb)).toEqual([]);
  });
});

describe('material slots', () => {
  it('by hand, by name, by likeness, or not at all', () => {
    const slots = ['Brick_mat', 'plank.001', 'wet stones', 'glass', 'own'].map((name) => ({ name, hasPicture: name === 'own' }));
    const chosen = chooseSlots(slots, ['brick', 'plank', 'wet_stone', 'own'], { glass: 'brass' });
    expect(chosen.map((c) => [c.material, c.by])).toEqual([
      ['brick', 'name'],
      ['plank', 'name'],
      ['wet_stone', 'likeness'],
      ['brass', 'hand'],
      ['', 'none'],
    ]);
    expect(likeness('night', 'nacht')).toBeCloseTo(0.25, 6);
  });

  it('are written into the file and named when they do not exist', async () => {
    const alike = await convert(`usemtl wet_stones\n${CUBE}`, {}, { materials: ['wet_stone'] });
    expect(codes(alike)).toContain('model-slot-guessed');
    const kept = await convert(`usemtl wet_stones\n${CUBE}`, fixOf(alike, 'model-slot-guessed'), { materials: ['wet_stone'] });
    expect(codes(kept)).not.toContain('model-slot-guessed');
    const model = await convert(`usemtl brick\n${CUBE}`, { materials: { brick: 'gone' } }, { materials: ['brick'] });
    expect(codes(model)).toContain('model-slot-missing');
    const by = await convert(`usemtl brick\n${CUBE}`, {}, { materials: ['brick'] });
    expect((await new WebIO().readBinary(by.glb)).getRoot().listMaterials()[0].getExtras()).toEqual({ material: 'brick' });
  });
});

describe('surfaces', () => {
  it('are closed or not, whatever their seams', () => {
    const model = readObj(bytesOf(CUBE), 'c.obj');
    expect(isClosed(surfaceOf(model.parts, null))).toBe(true);
    const open = readObj(bytesOf(CUBE.replace('f 5 6 7 8\n', '')), 'c.obj');
    expect(isClosed(surfaceOf(open.parts, null))).toBe(false);
    expect(newModel().rig).toBeNull();
  });
});

describe('damaged GLB', () => {
  it('names the byte at which a truncated file ends', async () => {
    const { glb } = await convert(CUBE);
    await expect(readGltf(glb.subarray(0, glb.length - 100), 'cut.glb')).rejects.toThrow(new RegExp(`\\(byte ${glb.length - 100}\\)`));
    await expect(readGltf(bytesOf('PNG'), 'no.glb')).rejects.toThrow(/byte 3/);
    await expect(readGltf(bytesOf('not a glb at all'), 'no.glb')).rejects.toThrow(/byte 0/);
  });
});
