import { describe, expect, it } from '@jest/globals';
import { Logger, WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { draco, meshopt } from '@gltf-transform/functions';
import draco3d from 'draco3dgltf';
import fc from 'fast-check';
import { MeshoptDecoder, MeshoptEncoder } from 'meshoptimizer';
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js';
import { STLLoader } from 'three/examples/jsm/loaders/STLLoader.js';
import { PLYExporter } from 'three/examples/jsm/exporters/PLYExporter.js';
import { STLExporter } from 'three/examples/jsm/exporters/STLExporter.js';
import type { BufferGeometry, Mesh } from 'three';
import { bendingGlb, bunny, bunnyMesh, bunnyObj, bytesOf, COLLADA, CUBE, FBX } from '../../../testing/models.ts';
import { testProfile } from '../../../testing/world.ts';
import { convertModel } from '../convert.ts';
import { triangleCount, type Model } from '../model/model.ts';
import { readModel } from './readModel.ts';
import { ObjReader } from './readObj.ts';
import { boundsOf, surfaceOf, volumeOf } from '../geometry/surface.ts';
import { ByteScanner, wholeLines } from './byteScanner.ts';

/** Triangles, bounds and volume of a model, as far as they can be compared between readers. */
function facts(model: Model) {
  const { positions, indices } = surfaceOf(model.parts, model.rig);
  const { min, max } = boundsOf(positions);
  return { triangles: triangleCount(model), min, max, volume: volumeOf(positions, indices) };
}

function factsOf(geometry: BufferGeometry) {
  const positions = geometry.getAttribute('position').array as Float32Array;
  const indices = geometry.index ? geometry.index.array : Uint32Array.from({ length: positions.length / 3 }, (_, i) => i);
  const { min, max } = boundsOf(positions);
  return { triangles: indices.length / 3, min, max, volume: volumeOf(positions, indices) };
}

function expectSame(ours: ReturnType<typeof facts>, theirs: ReturnType<typeof facts>) {
  expect(ours.triangles).toBe(theirs.triangles);
  for (const side of ['min', 'max'] as const) ours[side].forEach((v, axis) => expect(v).toBeCloseTo(theirs[side][axis], 5));
  expect(ours.volume).toBeCloseTo(theirs.volume, 3);
}

// Outside references: three's loaders, on the Stanford bunny from the package `bunny`.
describe('the bunny reads as three reads it', () => {
  const mesh = bunnyMesh();
  // three's exporters call back in the next frame of a page.
  globalThis.requestAnimationFrame ??= () => 0;

  it('from OBJ', async () => {
    const ours = facts(await readModel(bunnyObj(), 'bunny.obj'));
    expectSame(ours, factsOf((new OBJLoader().parse(new TextDecoder().decode(bunnyObj())).children[0] as Mesh).geometry));
    expect(ours.triangles).toBe(bunny.cells.length);
  });

  it('from STL, binary and ASCII', async () => {
    const binary = new Uint8Array((new STLExporter().parse(mesh, { binary: true }) as DataView).buffer as ArrayBuffer);
    expectSame(facts(await readModel(binary, 'bunny.stl')), factsOf(new STLLoader().parse(binary.buffer)));
    const ascii = new STLExporter().parse(mesh, { binary: false }) as unknown as string;
    expectSame(facts(await readModel(bytesOf(ascii), 'bunny.stl')), factsOf(new STLLoader().parse(ascii)));
  });

  it('from PLY, ASCII and both byte orders', async () => {
    for (const options of [{}, { binary: true }, { binary: true, littleEndian: true }]) {
      const out = new PLYExporter().parse(mesh, () => {}, options) as string | ArrayBuffer;
      const bytes = typeof out === 'string' ? bytesOf(out) : new Uint8Array(out);
      expectSame(facts(await readModel(bytes, 'bunny.ply')), factsOf(new PLYLoader().parse(bytes.slice().buffer)));
    }
  });

  it('from GLB compressed with Draco and with meshopt, as @gltf-transform/core reads it', async () => {
    const plain = await convertModel(
      testProfile(),
      { file: 'bunny.obj', bytes: bunnyObj() },
      { unit: 'm', collision: 'none', normals: 'smooth', smoothAngle: 180 },
    );
    await MeshoptEncoder.ready;
    const io = new WebIO()
      .setLogger(new Logger(Logger.Verbosity.SILENT))
      .registerExtensions(ALL_EXTENSIONS)
      .registerDependencies({
        'draco3d.encoder': await (draco3d as unknown as { createEncoderModule(): Promise<object> }).createEncoderModule(),
        'draco3d.decoder': await draco3d.createDecoderModule(),
        'meshopt.encoder': MeshoptEncoder,
        'meshopt.decoder': MeshoptDecoder,
      });
    for (const compress of [draco(), meshopt({ encoder: MeshoptEncoder })]) {
      const document = await io.readBinary(plain.glb);
      await document.transform(compress);
      const bytes = await io.writeBinary(document);
      const theirs = (await io.readBinary(bytes)).getRoot().listScenes()[0].listChildren()[0].getMesh()!.listPrimitives()[0];
      const model = await readModel(bytes, 'bunny.glb');
      expect(triangleCount(model)).toBe(theirs.getIndices()!.getCount() / 3);
      // Quantised positions are off by a little; the shape is the same.
      expect(facts(model).volume / facts(await readModel(bunnyObj(), 'bunny.obj')).volume).toBeCloseTo(1, 2);
    }
  });
});

describe('glTF', () => {
  it('with its buffer beside it, embedded, and missing', async () => {
    const io = new WebIO();
    const glb = (await convertModel(testProfile(), { file: 'cube.obj', bytes: bytesOf(CUBE) })).glb;
    const { json, resources } = await io.writeJSON(await io.readBinary(glb), { basename: 'cube' });
    const file = bytesOf(JSON.stringify(json));
    const along = new Map(Object.entries(resources));
    expect(triangleCount(await readModel(file, 'cube.gltf', along))).toBe(12);
    // From another folder of the same drop.
    expect(triangleCount(await readModel(file, 'cube.gltf', new Map([['parts/cube.bin', resources['cube.bin']]])))).toBe(12);
    const embedded = structuredClone(json);
    embedded.buffers![0].uri = `data:application/octet-stream;base64,${Buffer.from(resources['cube.bin']).toString('base64')}`;
    expect(triangleCount(await readModel(bytesOf(JSON.stringify(embedded)), 'cube.gltf'))).toBe(12);
    await expect(readModel(file, 'cube.gltf')).rejects.toThrow(/keeps its geometry in cube\.bin, which did not come with it/);
    await expect(readModel(bytesOf('{"asset":{"version":"1.0"}}'), 'old.gltf')).rejects.toThrow(/states glTF version 1\.0/);
  });

  it('keeps joints, weights and clips', async () => {
    const model = await readModel(await bendingGlb(), 'bar.glb');
    expect(model.rig!.nodes.map((node) => node.name)).toEqual(['lower', 'upper', 'body']);
    expect(model.rig!.skins[0].joints).toEqual([0, 1]);
    expect(model.rig!.clips.map((clip) => [clip.name, clip.channels[0].path, [...clip.channels[0].times]])).toEqual([['bend', 'rotation', [0, 1]]]);
    expect(facts(model).max).toEqual([expect.closeTo(0.1, 6), 2, 0]);
  });
});

describe('COLLADA and FBX', () => {
  it('COLLADA comes out in metres and y up; its texture is looked for under other names', async () => {
    const model = await readModel(bytesOf(COLLADA), 'square.dae', new Map([['moss.png', new Uint8Array([1])]]));
    expect(model.stated).toEqual({ metres: 1, upAxis: 'y' });
    const { min, max, triangles } = facts(model);
    expect(triangles).toBe(2);
    expect([max[0] - min[0], max[1] - min[1], max[2] - min[2]].map((v) => Math.round(v * 1e4) / 1e4)).toEqual([1, 1, 0]);
    expect(model.parts[0].material).toBe('moss');
    expect(model.textures).toEqual([{ wanted: 'Moss.PNG', found: 'moss.png' }]);
  });

  it('FBX states its unit', async () => {
    const model = await readModel(bytesOf(FBX), 'tri.fbx');
    expect(model.stated).toEqual({ metres: 0.01, upAxis: 'y' });
    expect(facts(model)).toMatchObject({ triangles: 1, max: [100, 100, 0] });
  });

  it('what is neither is said so, and nothing of the page that was lent remains', async () => {
    await expect(readModel(bytesOf('<html></html>'), 'page.dae')).rejects.toThrow(/no <COLLADA> element/);
    await expect(readModel(bytesOf('<COLLADA><open></COLLADA>'), 'open.dae')).rejects.toThrow(/open\.dae:1: its XML/);
    await expect(readModel(bytesOf('plain'), 'x.fbx')).rejects.toThrow(/its header is missing/);
    expect((globalThis as { window?: unknown }).window).toBeUndefined();
    expect((globalThis as { DOMParser?: unknown }).DOMParser).toBeUndefined();
  });
});

describe('damage is named by line or byte', () => {
  const stl = (count: number, length: number) => {
    const bytes = new Uint8Array(length);
    new DataView(bytes.buffer).setUint32(80, count, true);
    return bytes;
  };
  it.each([
    ['cut.stl', stl(3, 100), /declares 3 triangles, which would be 234 bytes; it has 100 \(byte 80\)/],
    ['none.stl', stl(0, 84), /has no triangles/],
    ['text.stl', bytesOf('solid x\nfacet normal 0 0 1\nouter loop\nvertex 0 0 zero\n'), /text\.stl:4: "vertex" needs three numbers/],
    ['facet.stl', bytesOf('solid x\nfacet normal 0 0 1\nvertex 0 0 0\nvertex 1 0 0\nendfacet\n'), /facet\.stl:5: a facet has 2 corners/],
    ['x.ply', bytesOf('plyer'), /does not begin with "ply"/],
    ['a.ply', bytesOf('ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\n'), /a\.ply:\d+: the header has no "end_header"/],
    ['b.ply', bytesOf('ply\nformat ascii 1.0\nelement vertex 9999999\nend_header\n'), /b\.ply:3: element "vertex" declares 9999999 entries/],
    ['c.ply', bytesOf('ply\nformat ascii 1.0\nelement vertex 1\nproperty long x\nend_header\n'), /c\.ply:4: type "long" is not known/],
    [
      'd.ply',
      bytesOf(
        'ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n3 0 1 2\n',
      ),
      /face 0 refers to vertex 1, but there are 1/,
    ],
    ['e.doc', bytesOf(''), /only \.glb, \.gltf, \.obj/],
  ])('%s', async (file, bytes, message) => {
    await expect(readModel(bytes, file)).rejects.toThrow(message);
  });
});

describe('numbers in text', () => {
  it('are those that the language reads, to the last bit', () => {
    const read = (text: string) => new ByteScanner(bytesOf(text)).number();
    fc.assert(
      fc.property(fc.double({ noNaN: true }), fc.constantFrom('', '+'), (value, sign) => {
        const text = `${value >= 0 && !Object.is(value, -0) ? sign : ''}${value}`;
        expect(read(text)).toBe(Number(text));
      }),
      { numRuns: 2000 },
    );
    for (const odd of ['1e', '.', '-', '1.2.3', '0x10', 'inf', '']) expect(read(odd)).toBe(odd === '' ? NaN : Number(odd));
    expect(read('5.e-3')).toBe(0.005);
  });
});

describe('a file in pieces', () => {
  /** Cuts a file at the given places. */
  async function* cut(bytes: Uint8Array, ...places: number[]): AsyncGenerator<Uint8Array> {
    const at = [0, ...places, bytes.length];
    for (let i = 1; i < at.length; i++) yield await Promise.resolve(bytes.subarray(at[i - 1], at[i]));
  }
  const everyNth = (bytes: Uint8Array, n: number) => cut(bytes, ...Array.from({ length: Math.ceil(bytes.length / n) - 1 }, (_, i) => (i + 1) * n));
  const linesOf = async (text: string, n: number, least: number) => {
    const out: string[] = [];
    for await (const lines of wholeLines(everyNth(bytesOf(text), n), least)) out.push(new TextDecoder().decode(lines));
    return out;
  };

  it('is cut anew where lines end, and never where one goes on', async () => {
    const text = 'a\nbb\r\nc \\\n c\nd \\\r\n d\n\nlast';
    for (let n = 1; n <= text.length; n++)
      for (let least = 1; least <= text.length; least++) {
        const pieces = await linesOf(text, n, least);
        expect(pieces.join('')).toBe(text);
        for (const piece of pieces.slice(0, -1)) expect(piece).toMatch(/(^|[^\\\r]|[^\\]\r)\n$/);
      }
    expect(await linesOf('a\nb\nc\n', 1, 1)).toEqual(['a\n', 'b\n', 'c\n']);
  });

  it('a line that never ends is not searched again with every piece', async () => {
    const long = 'x'.repeat(1000);
    expect(await linesOf(long, 1, 4)).toEqual([long]);
  });

  it('is the same model as in one', async () => {
    const whole = await readModel(bunnyObj(), 'bunny.obj');
    const reader = new ObjReader('bunny.obj');
    let pieces = 0;
    for await (const lines of wholeLines(everyNth(bunnyObj(), 997), 4096)) {
      reader.read(lines);
      pieces++;
    }
    expect(pieces).toBeGreaterThan(10);
    expect(reader.finish()).toEqual(whole);
  });

  it('takes its material library along wherever it is asked for', async () => {
    const text = 'v 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl red\nf 1 2 3\nmtllib a b.mtl\n';
    const companions = new Map([['a b.mtl', bytesOf('newmtl red\nKd 1 0 0\n')]]);
    const model = await readModel(everyNth(bytesOf(text), 7), 'x.obj', companions);
    expect(model.materials.red.colour).toEqual([1, 0, 0, 1]);
    expect(model.textures).toEqual([]);
  });

  it('says lines and bytes of the whole file where it is wrong', async () => {
    const good = 'v 0 0 0\n'.repeat(300_000);
    await expect(readModel(everyNth(bytesOf(`${good}v 0 0\n`), 65_536), 'x.obj')).rejects.toThrow(/x\.obj:300001: "v" needs 3 numbers/);
    await expect(readModel(everyNth(bytesOf(`${good}v 0 0 0\0`), 65_536), 'x.obj')).rejects.toThrow(/byte 2400007/);
  });

  it('other formats are put together', async () => {
    const glb = await bendingGlb();
    expect(await readModel(everyNth(glb, 100), 'bar.glb')).toEqual(await readModel(glb, 'bar.glb'));
  });
});
