/** Small valid files of every format that is read, to be damaged. */
import { Document, Logger, WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { draco, meshopt } from '@gltf-transform/functions';
import { encode as encodeBmp } from 'bmp-ts';
import draco3d from 'draco3dgltf';
import { encode as encodePng } from 'fast-png';
import { encode as encodeJpeg } from 'jpeg-js';
import { MeshoptEncoder } from 'meshoptimizer';
import omggif from 'omggif';
import { BufferAttribute, BufferGeometry, DataTexture, FloatType, Mesh, MeshStandardMaterial, RGBAFormat } from 'three';
import { EXRExporter } from 'three/examples/jsm/exporters/EXRExporter.js';
import { PLYExporter } from 'three/examples/jsm/exporters/PLYExporter.js';
import { STLExporter } from 'three/examples/jsm/exporters/STLExporter.js';
import UTIF from 'utif2';
import { createMp3Encoder } from 'wasm-media-encoders';
import { smallBank } from '@violet-crate/core/bank/testing';
import { makePatch } from '@violet-crate/core/patch/makePatch';
import { writeZip } from '@violet-crate/core/asset/archive/zip';
import { writeOgg } from '@violet-crate/core/asset/sound/writeOgg';
import { writeWav } from '@violet-crate/core/asset/sound/writeWav';
import { collada as colladaVariants } from '../corpus/collada.mjs';
import { fbx as fbxVariants } from '../corpus/fbx.mjs';
import { gltfVariants } from '../corpus/gltf.mjs';
import { encodeKtx2 } from '@violet-crate/core/asset/texture/encodeKtx2';

const text = (content) => new TextEncoder().encode(content);
const pixels = Uint8Array.from({ length: 8 * 8 * 4 }, (_, i) => (i % 4 === 3 ? 255 : (i * 37) % 256));
const picture = { width: 8, height: 8, data: pixels };
const TABLE = `{"format":1,"table":"kit","rows":[
    {"id":"hook","weight":3,"name":"Hook","parts":["rope","hook"],"of":"rope"},
    {"id":"rope","weight":4,"name":"Rope","parts":[],"of":null}
]}`;
const TALK = `{"format":1,"title":"x","steps":[
    {"depth":0,"do":"label","name":"a"},
    {"depth":0,"do":"if","test":{"flag":"met","on":true}},
    {"depth":1,"do":"say","who":"odile","text":"You again."},
    {"depth":0,"do":"else"},
    {"depth":1,"do":"set","flag":"met"},
    {"depth":0,"do":"choose"},
    {"depth":1,"do":"option","text":"On."},
    {"depth":2,"do":"contest","contest":"wits","against":"odile","flag":"won","texts":{"before":"So."}},
    {"depth":3,"do":"lost"},
    {"depth":4,"do":"go","to":"a"},
    {"depth":1,"do":"option","text":"Off.","test":{"value":"n","is":">","than":2}},
    {"depth":0,"do":"end"}
]}`;
const CUBE = `mtllib a.mtl
o cube
${[0, 1, 2, 3, 4, 5, 6, 7].map((i) => `v ${i & 1} ${(i >> 1) & 1} ${i >> 2}`).join('\n')}
vt 0 0
vt 1 0
vt 1 1
vn 0 0 1
usemtl red
f 1/1/1 3/2/1 4/3/1 2/1/1
f 5 6 8 7
f -8 -7 -3 -4
`;

function cube() {
  const geometry = new BufferGeometry();
  geometry.setAttribute(
    'position',
    new BufferAttribute(
      Float32Array.from({ length: 24 }, (_, i) => (Math.floor(i / 3) >> (i % 3)) & 1),
      3,
    ),
  );
  geometry.setAttribute(
    'normal',
    new BufferAttribute(
      Float32Array.from({ length: 24 }, (_, i) => (i % 3 === 2 ? 1 : 0)),
      3,
    ),
  );
  geometry.setAttribute(
    'uv',
    new BufferAttribute(
      Float32Array.from({ length: 16 }, (_, i) => (i % 5) / 5),
      2,
    ),
  );
  geometry.setIndex([0, 2, 3, 0, 3, 1, 4, 5, 7, 4, 7, 6]);
  return new Mesh(geometry, new MeshStandardMaterial());
}

async function glbs() {
  const document = new Document().setLogger(new Logger(Logger.Verbosity.SILENT));
  const buffer = document.createBuffer();
  const geometry = cube().geometry;
  const accessor = (type, array) => document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', geometry.getAttribute('position').array))
    .setAttribute('NORMAL', accessor('VEC3', geometry.getAttribute('normal').array))
    .setAttribute('TEXCOORD_0', accessor('VEC2', geometry.getAttribute('uv').array))
    .setIndices(accessor('SCALAR', Uint16Array.from(geometry.getIndex().array)));
  primitive.setMaterial(
    document.createMaterial('m').setBaseColorTexture(
      document
        .createTexture('t')
        .setMimeType('image/png')
        .setImage(encodePng({ ...picture, channels: 4, depth: 8 })),
    ),
  );
  const node = document.createNode('n').setMesh(document.createMesh('m').addPrimitive(primitive));
  const sampler = document
    .createAnimationSampler()
    .setInput(accessor('SCALAR', Float32Array.of(0, 1)))
    .setOutput(accessor('VEC3', Float32Array.of(0, 0, 0, 1, 1, 1)));
  const channel = document.createAnimationChannel().setTargetNode(node).setTargetPath('translation').setSampler(sampler);
  const animation = document.createAnimation('a').addSampler(sampler).addChannel(channel);
  document.getRoot().setDefaultScene(document.createScene('s').addChild(node));
  await MeshoptEncoder.ready;
  const io = new WebIO()
    .setLogger(new Logger(Logger.Verbosity.SILENT))
    .registerExtensions(ALL_EXTENSIONS)
    .registerDependencies({
      'draco3d.encoder': await draco3d.createEncoderModule(),
      'draco3d.decoder': await draco3d.createDecoderModule(),
      'meshopt.encoder': MeshoptEncoder,
    });
  const moving = await io.writeBinary(document);
  animation.dispose();
  const plain = await io.writeBinary(document);
  const { json, resources } = await io.writeJSON(document, { basename: 'a' });
  json.buffers[0].uri = `data:application/octet-stream;base64,${Buffer.from(resources['a.bin']).toString('base64')}`;
  const compressed = async (transform) => {
    const copy = (await io.readBinary(plain)).setLogger(new Logger(Logger.Verbosity.SILENT));
    await copy.transform(transform);
    return io.writeBinary(copy);
  };
  return {
    glb: plain,
    'glb with a clip': moving,
    gltf: text(JSON.stringify(json)),
    'glb with draco': await compressed(draco()),
    'glb with meshopt': await compressed(meshopt({ encoder: MeshoptEncoder })),
  };
}

const tone = () => ({ sampleRate: 22050, channels: [Float32Array.from({ length: 2205 }, (_, i) => Math.sin(i / 9) * 0.4)] });

async function mp3() {
  const encoder = await createMp3Encoder();
  encoder.configure({ channels: 1, sampleRate: 22050, bitrate: 32 });
  return new Uint8Array(Buffer.concat([encoder.encode(tone().channels).slice(), encoder.finalize().slice()]));
}

/** A cyclic redundancy check, highest bit first. */
function crc(bits, polynomial, bytes) {
  let value = 0;
  for (const byte of bytes) {
    value ^= byte << (bits - 8);
    for (let i = 0; i < 8; i++) value = (value & (1 << (bits - 1)) ? (value << 1) ^ polynomial : value << 1) & (2 ** bits - 1);
  }
  return value;
}

/** A FLAC of one frame with 4096 equal samples. */
function flac() {
  const info = [0x10, 0, 0x10, 0, 0, 0, 0, 0, 0, 0, 0x0a, 0xc4, 0x40, 0xf0, 0, 0, 0x10, 0, ...new Array(16).fill(0)];
  const header = [0xff, 0xf8, 0xc9, 0x08, 0x00];
  const frame = [...header, crc(8, 0x07, header), 0x00, 0x03, 0xe8];
  const check = crc(16, 0x8005, frame);
  return new Uint8Array([...text('fLaC'), 0x80, 0, 0, 34, ...info, ...frame, check >> 8, check & 255]);
}

const tga = () => {
  const header = new Uint8Array(18);
  header.set([0, 0, 2]);
  header.set([8, 0, 8, 0, 32, 0x28], 12);
  return new Uint8Array([...header, ...pixels]);
};

async function exr() {
  const light = new DataTexture(
    Float32Array.from(pixels, (v) => v / 64),
    8,
    8,
    RGBAFormat,
    FloatType,
  );
  return new Uint8Array(await new EXRExporter().parse(light));
}

function gif() {
  const buffer = new Uint8Array(2000);
  const writer = new omggif.GifWriter(buffer, 8, 8, { palette: [0, 0xff8800, 0x00ff88, 0x8800ff] });
  writer.addFrame(
    0,
    0,
    8,
    8,
    Array.from({ length: 64 }, (_, i) => i % 4),
  );
  return buffer.slice(0, writer.end());
}

const collada = `<?xml version="1.0"?><COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1"><asset><unit meter="0.01"/><up_axis>Z_UP</up_axis></asset>
<library_geometries><geometry id="g"><mesh><source id="p"><float_array id="pa" count="9">0 0 0 1 0 0 0 1 0</float_array><technique_common><accessor source="#pa" count="3" stride="3"><param name="X" type="float"/><param name="Y" type="float"/><param name="Z" type="float"/></accessor></technique_common></source>
<vertices id="v"><input semantic="POSITION" source="#p"/></vertices><triangles count="1"><input semantic="VERTEX" source="#v" offset="0"/><p>0 1 2</p></triangles></mesh></geometry></library_geometries>
<library_visual_scenes><visual_scene id="s"><node id="n"><instance_geometry url="#g"/></node></visual_scene></library_visual_scenes><scene><instance_visual_scene url="#s"/></scene></COLLADA>`;

const fbx = `; FBX 7.4.0 project file
FBXHeaderExtension:  {
	FBXVersion: 7400
}
GlobalSettings:  {
	Properties70:  {
		P: "UnitScaleFactor", "double", "Number", "",1
	}
}
Objects:  {
	Geometry: 1000, "Geometry::t", "Mesh" {
		Vertices: *9 {
			a: 0,0,0,1,0,0,0,1,0
		}
		PolygonVertexIndex: *3 {
			a: 0,1,-3
		}
	}
	Model: 2000, "Model::t", "Mesh" {
		Version: 232
	}
}
Connections:  {
	C: "OO",2000,0
	C: "OO",1000,2000
}
`;

/** @returns by name of the format: the file's name and its bytes */
export async function seeds() {
  globalThis.requestAnimationFrame ??= () => 0;
  const mesh = cube();
  const hdr = new Uint8Array([...text('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 8 +X 8\n'), ...pixels]);
  const tiff = new Uint8Array(UTIF.encodeImage(pixels, 8, 8));
  const list = {
    obj: ['a.obj', text(CUBE)],
    'stl binary': ['a.stl', new Uint8Array(new STLExporter().parse(mesh, { binary: true }).buffer)],
    'stl ascii': ['a.stl', text(new STLExporter().parse(mesh, { binary: false }))],
    'ply ascii': ['a.ply', text(new PLYExporter().parse(mesh, () => {}, {}))],
    'ply binary': ['a.ply', new Uint8Array(new PLYExporter().parse(mesh, () => {}, { binary: true, littleEndian: true }))],
    collada: ['a.dae', text(collada)],
    fbx: ['a.fbx', text(fbx)],
    'binary fbx': ['a.fbx', fbxVariants['texture coordinates by corner, one material'].bytes],
    'packed binary fbx': ['a.fbx', fbxVariants['binary with packed arrays'].bytes],
    'collada polygons': ['a.dae', colladaVariants['polygons with one p each'].bytes],
    'collada strips': ['a.dae', colladaVariants['several strips'].bytes],
    'collada animation': ['a.dae', colladaVariants['channels of one target in animations of their own'].bytes],
    'collada utf-16': ['a.dae', colladaVariants['UTF-16, little end first'].bytes],
    'gltf strips': ['a.gltf', gltfVariants['strips and fans'].bytes],
    'gltf sparse': ['a.gltf', gltfVariants['a sparse accessor over zeros'].bytes],
    zip: [
      'a.zip',
      writeZip(
        new Map([
          ['a/b.obj', text(CUBE)],
          ['a/c.txt', new Uint8Array(300)],
        ]),
      ),
    ],
    talk: ['a.talk.json', text(TALK)],
    table: ['a.table.json', text(TABLE)],
    csv: ['a.csv', text('id,weight,name\r\nhook,3,"a, b"\r\nrope,4,"say ""so"""\r\n')],
    bank: ['a.bnk', smallBank()],
    patch: [
      'a.vcdiff',
      makePatch(
        smallBank(),
        smallBank().map((byte, at) => (at % 50 === 0 ? byte ^ 5 : byte)),
      ),
    ],
    png: ['a.png', encodePng({ ...picture, channels: 4, depth: 8 })],
    jpeg: ['a.jpg', new Uint8Array(encodeJpeg({ width: 8, height: 8, data: Buffer.from(pixels) }, 80).data)],
    webp: ['a.webp', new Uint8Array(Buffer.from('UklGRiYAAABXRUJQVlA4TBkAAAAvA0AAAA9wKOyDoBZ0/oODQgABUNBE9D8eAA==', 'base64'))],
    tga: ['a.tga', tga()],
    bmp: ['a.bmp', new Uint8Array(encodeBmp({ data: Buffer.from(pixels), width: 8, height: 8, bitPP: 24 }).data)],
    gif: ['a.gif', gif()],
    tiff: ['a.tif', tiff],
    hdr: ['a.hdr', hdr],
    exr: ['a.exr', await exr()],
    'ktx2 uastc': ['a.ktx2', await encodeKtx2([picture], { form: 'uastc', srgb: true, normal: false })],
    'ktx2 etc1s': ['a.ktx2', await encodeKtx2([picture], { form: 'etc1s', srgb: true, normal: false })],
    wav: ['a.wav', writeWav({ ...tone(), loop: { start: 3, end: 900 } })],
    ogg: ['a.ogg', await writeOgg(tone())],
    flac: ['a.flac', flac()],
    mp3: ['a.mp3', await mp3()],
    lua: [
      'a.lua',
      text(
        'local n = 0x1p4 --[[ c ]]\nfunction startup(...)\n  for i = 1, #{...} do n = n // i << 2 end\n  goto done\n  ::done::\n  return [[long]], "a\\z  b\\x41", function() end\nend\n',
      ),
    ],
  };
  for (const [name, bytes] of Object.entries(await glbs())) list[name] = [name === 'gltf' ? 'a.gltf' : 'a.glb', bytes];
  return list;
}
