/** glTF 2.0 in the forms that the standard leaves to the exporter. */
import { fans, points, strip, text, triangles } from './shape.mjs';

/** Puts arrays into one buffer, and answers its views. */
function packed(arrays) {
  const views = [];
  let at = 0;
  const bytes = [];
  for (const array of arrays) {
    const own = new Uint8Array(array.buffer, array.byteOffset, array.byteLength);
    views.push({ buffer: 0, byteOffset: at, byteLength: own.length });
    const padded = new Uint8Array(Math.ceil(own.length / 4) * 4);
    padded.set(own);
    bytes.push(padded);
    at += padded.length;
  }
  return { views, buffer: Buffer.concat(bytes) };
}

const FLOATS = Float32Array.from(points.flat());
const [MIN, MAX] = [
  [0, 0, 0],
  [3, 2, 1],
];
const uri = (buffer) => `data:application/octet-stream;base64,${buffer.toString('base64')}`;

/** A document over arrays: the first is positions, others as `accessors` says. */
function gltf(
  arrays,
  { accessors = [], primitives = [{ attributes: { POSITION: 0 } }], extra = {}, nodes = [{ mesh: 0 }], position = {}, more = {} } = {},
) {
  const { views, buffer } = packed(arrays);
  return {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: nodes.map((_, i) => i).filter((i) => !nodes.some((node) => node.children?.includes(i))) }],
    nodes,
    meshes: [{ primitives }],
    accessors: [{ bufferView: 0, componentType: 5126, count: points.length, type: 'VEC3', min: MIN, max: MAX, ...position }, ...accessors],
    bufferViews: views,
    buffers: [{ byteLength: buffer.length, uri: uri(buffer) }],
    ...extra,
    ...more,
  };
}

const indexed = (Type, componentType, corners = triangles.flat(), mode = 4) =>
  gltf([FLOATS, Type.from(corners)], {
    accessors: [{ bufferView: 1, componentType, count: corners.length, type: 'SCALAR' }],
    primitives: [{ attributes: { POSITION: 0 }, indices: 1, mode }],
  });
const json = (document) => text(JSON.stringify(document));

function glb(document, chunks = []) {
  const { uri: own, ...buffer } = document.buffers[0];
  const bin = Buffer.from(own.split(',')[1], 'base64');
  const head = Buffer.from(JSON.stringify({ ...document, buffers: [buffer] }));
  const parts = [[0x4e4f534a, Buffer.concat([head, Buffer.alloc((4 - (head.length % 4)) % 4, 0x20)])], [0x004e4942, bin], ...chunks];
  const body = Buffer.concat(
    parts.flatMap(([type, data]) => {
      const header = Buffer.alloc(8);
      header.writeUInt32LE(data.length, 0);
      header.writeUInt32LE(type, 4);
      return [header, data];
    }),
  );
  const header = Buffer.alloc(12);
  header.writeUInt32LE(0x46546c67, 0);
  header.writeUInt32LE(2, 4);
  header.writeUInt32LE(12 + body.length, 8);
  return new Uint8Array(Buffer.concat([header, body]));
}

const plain = () => indexed(Uint16Array, 5123);
const spread = (corners) => Float32Array.from(corners.flatMap((i) => points[i]));
const strips = {
  arrays: [FLOATS, Uint16Array.from(strip), Uint16Array.from(fans[0]), Uint16Array.from(fans[1])],
  accessors: [strip, fans[0], fans[1]].map((corners, i) => ({ bufferView: i + 1, componentType: 5123, count: corners.length, type: 'SCALAR' })),
};
const uvs = Float32Array.from(points.flatMap(([x, y]) => [x / 3, y / 2]));
const interleaved = Float32Array.from(points.flatMap((point) => [...point, 0, 1, 0]));

export const gltfVariants = {
  'indices of one byte': { bytes: json(indexed(Uint8Array, 5121)) },
  'indices of two bytes': { bytes: json(plain()) },
  'indices of four bytes': { bytes: json(indexed(Uint32Array, 5125)) },
  'no indices': { bytes: json(gltf([spread(triangles.flat())], { position: { count: triangles.length * 3 } })) },
  'strips and fans': {
    bytes: json(
      gltf(strips.arrays, {
        accessors: strips.accessors,
        primitives: [5, 6, 6].map((mode, i) => ({ attributes: { POSITION: 0 }, indices: i + 1, mode })),
      }),
    ),
  },
  'strips and fans without indices': {
    bytes: json(
      gltf([spread(strip), spread(fans[0]), spread(fans[1])], {
        position: { count: strip.length },
        accessors: fans.map((fan, i) => ({ bufferView: i + 1, componentType: 5126, count: fan.length, type: 'VEC3', min: MIN, max: MAX })),
        primitives: [5, 6, 6].map((mode, i) => ({ attributes: { POSITION: i }, mode })),
      }),
    ),
  },
  'interleaved attributes': {
    bytes: json(
      gltf([interleaved, Uint16Array.from(triangles.flat())], {
        accessors: [
          { bufferView: 1, componentType: 5123, count: triangles.length * 3, type: 'SCALAR' },
          { bufferView: 0, byteOffset: 12, componentType: 5126, count: points.length, type: 'VEC3' },
        ],
        primitives: [{ attributes: { POSITION: 0, NORMAL: 2 }, indices: 1 }],
        more: {
          bufferViews: [
            { buffer: 0, byteLength: interleaved.byteLength, byteStride: 24 },
            { buffer: 0, byteOffset: interleaved.byteLength, byteLength: triangles.length * 6 },
          ],
        },
      }),
    ),
  },
  'a sparse accessor over zeros': {
    bytes: json(
      gltf([FLOATS, Uint16Array.from(triangles.flat()), Uint16Array.from(points.keys())], {
        position: {
          bufferView: undefined,
          sparse: { count: points.length, indices: { bufferView: 2, componentType: 5123 }, values: { bufferView: 0 } },
        },
        accessors: [{ bufferView: 1, componentType: 5123, count: triangles.length * 3, type: 'SCALAR' }],
        primitives: [{ attributes: { POSITION: 0 }, indices: 1 }],
      }),
    ),
  },
  'a mesh placed twice, once by a matrix': {
    bytes: json({
      ...plain(),
      nodes: [{ mesh: 0 }, { mesh: 0, matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 10, 0, 0, 1] }],
      scenes: [{ nodes: [0, 1] }],
    }),
    triangles: 40,
    max: [13, 2, 1],
    area: 36,
  },
  'nested transforms, one of them mirrored': {
    bytes: json({
      ...plain(),
      nodes: [
        { translation: [5, 0, 0], children: [1] },
        { scale: [-2, 2, 2], children: [2] },
        { rotation: [0, 0, 0, 1], mesh: 0 },
      ],
      scenes: [{ nodes: [0] }],
    }),
    min: [-1, 0, 0],
    max: [5, 4, 2],
    area: 72,
  },
  'no default scene': { bytes: json({ ...plain(), scene: undefined }) },
  'members in another order, a byte-order mark': {
    bytes: text(`\ufeff${JSON.stringify(Object.fromEntries(Object.entries(plain()).reverse()), null, 2).replaceAll('\n', '\r\n')}`),
  },
  'any 2.x': { bytes: json({ ...plain(), asset: { version: '2.1', minVersion: '2.0' } }) },
  'unknown members and attributes': {
    bytes: json({
      ...plain(),
      extras: { any: 1 },
      extensionsUsed: ['VENDOR_unknown'],
      meshes: [{ primitives: [{ attributes: { POSITION: 0, _WEAR: 0 }, indices: 1, extensions: { VENDOR_unknown: { a: 1 } } }] }],
    }),
  },
  'texture coordinates from set 1': {
    bytes: json(
      gltf([FLOATS, Uint16Array.from(triangles.flat()), uvs], {
        accessors: [
          { bufferView: 1, componentType: 5123, count: triangles.length * 3, type: 'SCALAR' },
          { bufferView: 2, componentType: 5126, count: points.length, type: 'VEC2' },
        ],
        primitives: [{ attributes: { POSITION: 0, TEXCOORD_1: 2 }, indices: 1 }],
      }),
    ),
    uvs: true,
  },
  'an animation of morph weights alone': {
    bytes: json(
      gltf([FLOATS, Uint16Array.from(triangles.flat()), Float32Array.from([0, 1]), Float32Array.from([0, 1])], {
        accessors: [
          { bufferView: 1, componentType: 5123, count: triangles.length * 3, type: 'SCALAR' },
          { bufferView: 2, componentType: 5126, count: 2, type: 'SCALAR', min: [0], max: [1] },
          { bufferView: 3, componentType: 5126, count: 2, type: 'SCALAR' },
        ],
        primitives: [{ attributes: { POSITION: 0 }, indices: 1, targets: [{ POSITION: 0 }] }],
        more: { animations: [{ samplers: [{ input: 2, output: 3 }], channels: [{ sampler: 0, target: { node: 0, path: 'weights' } }] }] },
      }),
    ),
  },
  'quantised positions': {
    bytes: json(
      gltf([Int16Array.from(points.flatMap((point) => [...point, 0])), Uint16Array.from(triangles.flat())], {
        position: { componentType: 5122 },
        accessors: [{ bufferView: 1, componentType: 5123, count: triangles.length * 3, type: 'SCALAR' }],
        primitives: [{ attributes: { POSITION: 0 }, indices: 1 }],
        more: {
          extensionsUsed: ['KHR_mesh_quantization'],
          extensionsRequired: ['KHR_mesh_quantization'],
          bufferViews: [
            { buffer: 0, byteLength: points.length * 8, byteStride: 8 },
            { buffer: 0, byteOffset: points.length * 8, byteLength: triangles.length * 6 },
          ],
        },
      }),
    ),
  },
  GLB: { bytes: glb(plain()), file: 'variant.glb' },
  'GLB with a chunk of its own kind': { bytes: glb(plain(), [[0x12345678, Buffer.alloc(8)]]), file: 'variant.glb' },
};

const wrong = (change) => {
  const document = plain();
  change(document);
  return json(document);
};
export const badGltf = {
  'version 1': [json({ asset: { version: '1.0' }, buffers: { b: { uri: 'data:,' } }, meshes: { m: {} } }), /glTF version 1.0/],
  'no version': [json({ asset: {} }), /no version of glTF/],
  'accessors of 400 million elements without bytes': [
    wrong((d) => (d.accessors[0] = { componentType: 5126, count: 400_000_000, type: 'VEC3' })),
    /\/accessors\/0 brings what the file declares to more than 1024 MB/,
  ],
  'an accessor that runs past its bytes': [wrong((d) => (d.accessors[0].count = 1000)), /\/accessors\/0 runs to byte 12000 of a bufferView with 144/],
  'a view that runs past its buffer': [wrong((d) => (d.bufferViews[1].byteLength = 9999)), /\/bufferViews\/1 ends at byte/],
  'an object where a list belongs': [wrong((d) => (d.meshes = { a: 1 })), /\/meshes has to be a list/],
  'a text where a number belongs': [wrong((d) => (d.accessors[0].count = '12')), /\/accessors\/0\/count has to be a whole number/],
  'an index beyond its list': [wrong((d) => (d.nodes[0].mesh = 7)), /\/nodes\/0\/mesh asks for number 7 of meshes, and there are 1/],
  'null among the nodes': [wrong((d) => (d.nodes[0] = null)), /\/nodes\/0 has to be an object, and is null/],
  'an empty address': [wrong((d) => (d.buffers[0].uri = '')), /\/buffers\/0\/uri has to be a text/],
  'a mesh without primitives': [wrong((d) => (d.meshes[0] = {})), /\/meshes\/0 lacks "primitives"/],
  'a corner that is not there': [json(indexed(Uint16Array, 5123, [0, 1, 99])), /refers to vertex 99, but it has 12/],
  'a node that holds itself': [wrong((d) => (d.nodes[0].children = [0])), /\/nodes\/0 lies within itself/],
  'a node in two places': [
    wrong((d) => (d.nodes = [{ children: [2] }, { children: [2] }, { mesh: 0 }])),
    /\/nodes\/1\/children holds node 2, which node 0 holds already/,
  ],
};
