import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { WebIO } from '@gltf-transform/core';
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import type { Mesh } from 'three';
import { UnreadableInput } from '../../finding.ts';
import { glbErrors } from '../../testing/glb.ts';
import { testProfile } from '../../testing/world.ts';
import { convertModel } from './convert.ts';
import { triangleCount } from './model.ts';
import { readGlb } from './readGlb.ts';
import { readObj } from './readObj.ts';

const bytes = (text: string) => new TextEncoder().encode(text);
const profile = testProfile();

/** A unit cube about the origin, in metres, without normals and texture coordinates. */
const CUBE = `o cube
v -0.5 -0.5 -0.5
v 0.5 -0.5 -0.5
v 0.5 0.5 -0.5
v -0.5 0.5 -0.5
v -0.5 -0.5 0.5
v 0.5 -0.5 0.5
v 0.5 0.5 0.5
v -0.5 0.5 0.5
f 4 3 2 1
f 5 6 7 8
f 1 2 6 5
f 2 3 7 6
f 3 4 8 7
f -8 -4 -1 -5
`;

async function cubeGlb(): Promise<Uint8Array> {
  return (await convertModel(profile, 'cube.obj', bytes(CUBE), { normals: 'flat' })).glb;
}

/** Volume enclosed by a GLB's triangles: positive when they face outwards. */
async function volumeOf(glb: Uint8Array): Promise<number> {
  const model = await readGlb(glb, 'x.glb');
  let volume = 0;
  for (const { positions: p, indices } of model.parts) {
    for (let i = 0; i < indices.length; i += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => [...p.subarray(indices[i + k] * 3, indices[i + k] * 3 + 3)]);
      volume += (a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2]) + a[2] * (b[0] * c[1] - b[1] * c[0])) / 6;
    }
  }
  return volume;
}

describe('OBJ', () => {
  it('reads faces with positive and negative indices', () => {
    expect(triangleCount(readObj(CUBE, 'cube.obj'))).toBe(12);
  });

  it('triangulates a concave polygon within its outline', () => {
    const arrow = 'v 0 0 0\nv 4 0 0\nv 4 4 0\nv 2 1 0\nv 0 4 0\nf 1 2 3 4 5\n';
    const [part] = readObj(arrow, 'arrow.obj').parts;
    const p = part.positions;
    let area = 0;
    for (let i = 0; i < part.indices.length; i += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => part.indices[i + k] * 3);
      area += Math.abs((p[b] - p[a]) * (p[c + 1] - p[a + 1]) - (p[c] - p[a]) * (p[b + 1] - p[a + 1])) / 2;
    }
    // Shoelace formula over the outline.
    expect(area).toBeCloseTo(10, 6);
  });

  // Outside reference: three's OBJLoader.
  it('has as many triangles as OBJLoader finds, on generated meshes', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.double({ min: -9, max: 9, noNaN: true }),
            fc.double({ min: -9, max: 9, noNaN: true }),
            fc.double({ min: -9, max: 9, noNaN: true }),
          ),
          { minLength: 4, maxLength: 30 },
        ),
        fc.array(fc.nat(1000), { minLength: 1, maxLength: 40 }),
        (points, seeds) => {
          const lines = points.map((p) => `v ${p.join(' ')}`);
          for (const s of seeds) lines.push(`f ${[s, s + 1, s + 2].map((k) => (k % points.length) + 1).join(' ')}`);
          const text = lines.join('\n');
          const theirs = (new OBJLoader().parse(text).children[0] as Mesh).geometry.getAttribute('position').count / 3;
          expect(triangleCount(readObj(text, 'x.obj'))).toBe(theirs);
        },
      ),
      { numRuns: 50 },
    );
  });

  it.each([
    ['v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n', /x\.obj:4: face refers to vertex 9, but there are 3/],
    ['v 0 0\n', /x\.obj:1: "v" needs 3 numbers/],
    ['v 0 0 zero\n', /x\.obj:1: "v" needs 3 numbers/],
    ['v 0 0 0\nv 1 0 0\nf 1 2\n', /x\.obj:3: a face needs at least 3 corners/],
    ['v 0 0 0\nf 0 0 0\n', /x\.obj:2: face index "0"/],
    ['# nothing\n', /has no faces/],
  ])('says what is wrong and where: %j', (text, message) => {
    expect(() => readObj(text, 'x.obj')).toThrow(message);
  });
});

describe('conversion', () => {
  it('writes GLBs without errors by the Khronos validator', async () => {
    for (const options of [
      {},
      { normals: 'smooth' as const },
      { normals: 'flat' as const, pivot: 'base' as const },
      { upAxis: 'z' as const, unit: 'cm' },
    ]) {
      const { glb } = await convertModel(profile, 'cube.obj', bytes(CUBE), options);
      expect(await glbErrors(glb)).toEqual([]);
    }
  });

  it('scales by unit and turns axes without mirroring', async () => {
    const tall = CUBE.replaceAll(/^v (\S+) (\S+) (\S+)$/gm, (_, x: string, y: string, z: string) => `v ${x} ${y} ${Number(z) * 3}`);
    const zUp = await convertModel(profile, 'tall.obj', bytes(tall), { unit: 'm', upAxis: 'z' });
    expect(zUp.bounds).toEqual({ min: [-16, -16, -48], max: [16, 16, 48] });
    const yUp = await convertModel(profile, 'tall.obj', bytes(tall), { unit: 'm', upAxis: 'y' });
    expect(yUp.bounds).toEqual({ min: [-16, -48, -16], max: [16, 48, 16] });
    expect(await volumeOf(zUp.glb)).toBeCloseTo(3, 4);
    expect(await volumeOf(yUp.glb)).toBeCloseTo(3, 4);
    expect((await convertModel(profile, 'tall.obj', bytes(tall), { unit: 'game', upAxis: 'z' })).bounds.max[2]).toBe(1.5);
  });

  it('finds a model that sinks into the floor, and its fix mends that', async () => {
    const first = await convertModel(profile, 'cube.obj', bytes(CUBE));
    const sinks = first.findings.find((f) => f.code === 'model-sinks')!;
    expect(sinks.message).toContain('50 %');
    expect(sinks.fix).toMatchObject({ kind: 'reconvert' });
    const fixed = await convertModel(profile, 'cube.obj', bytes(CUBE), sinks.fix!.kind === 'reconvert' ? (sinks.fix!.options as object) : {});
    expect(fixed.bounds.min[2]).toBe(0);
    expect(fixed.findings.map((f) => f.code)).not.toContain('model-sinks');
  });

  it('notes missing normals and texture coordinates, and sizes that are out of all proportion', async () => {
    const codes = (await convertModel(profile, 'cube.obj', bytes(CUBE))).findings.map((f) => f.code);
    expect(codes).toEqual(expect.arrayContaining(['model-no-normals', 'model-no-uvs']));
    const huge = await convertModel(profile, 'cube.obj', bytes(CUBE.replaceAll('0.5', '50')));
    expect(huge.findings.find((f) => f.code === 'model-large')?.fix).toMatchObject({ options: { unit: 'cm' } });
    const tiny = await convertModel(profile, 'cube.obj', bytes(CUBE), { unit: 'mm' });
    expect(tiny.findings.map((f) => f.code)).toContain('model-small');
  });

  it('smooths under the angle and keeps hard edges above it', async () => {
    const normalsOf = async (angle: number) => {
      const { glb } = await convertModel(profile, 'cube.obj', bytes(CUBE), { normals: 'smooth', smoothAngle: angle });
      return (await new WebIO().readBinary(glb)).getRoot().listMeshes()[0].listPrimitives()[0].getAttribute('POSITION')!.getCount();
    };
    expect(await normalsOf(40)).toBe(24);
    expect(await normalsOf(100)).toBe(8);
  });

  it('a GLB goes through unchanged in size', async () => {
    const again = await convertModel(profile, 'cube.glb', await cubeGlb());
    expect(again.bounds).toEqual({ min: [-16, -16, -16], max: [16, 16, 16] });
    expect(again.triangles).toBe(12);
  });
});

describe('damaged GLB', () => {
  it('names the byte at which a truncated file ends', async () => {
    const glb = await cubeGlb();
    await expect(readGlb(glb.subarray(0, glb.length - 100), 'cut.glb')).rejects.toThrow(new RegExp(`\\(byte ${glb.length - 100}\\)`));
    await expect(readGlb(bytes('PNG'), 'no.glb')).rejects.toThrow(/byte 3/);
    await expect(readGlb(bytes('not a glb at all'), 'no.glb')).rejects.toThrow(/byte 0/);
  });

  it('never crashes with anything but a message', async () => {
    const glb = await cubeGlb();
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(fc.nat(glb.length - 1), fc.nat(255)), { minLength: 1, maxLength: 4 }), async (changes) => {
        const damaged = glb.slice();
        for (const [at, value] of changes) damaged[at] = value;
        try {
          await convertModel(profile, 'damaged.glb', damaged);
        } catch (error) {
          expect(error).toBeInstanceOf(UnreadableInput);
        }
      }),
      { numRuns: 300 },
    );
  });
});
