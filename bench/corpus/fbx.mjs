/** FBX, ASCII and binary, from one tree of records: with and without what files of other exporters lack. */
import { deflateSync } from 'node:zlib';
import { points, polygons, text } from './shape.mjs';

/** A record: name, properties, records within. Numbers are doubles unless they say otherwise. */
const record = (name, properties = [], inner = []) => ({ name, properties, inner });
const int = (value) => ({ type: 'I', value });
const long = (value) => ({ type: 'L', value });
const doubles = (value) => ({ type: 'd', value });
const ints = (value) => ({ type: 'i', value });

const corners = polygons.flatMap((polygon) => polygon.map((corner, i) => (i === polygon.length - 1 ? -corner - 1 : corner)));

const geometry = (layers = []) =>
  record(
    'Geometry',
    [long(100), 'Geometry::', 'Mesh'],
    [record('GeometryVersion', [int(124)]), record('Vertices', [doubles(points.flat())]), record('PolygonVertexIndex', [ints(corners)]), ...layers],
  );
const P = (name, kind, ...values) => record('P', [name, kind, '', 'A', ...values]);
const model = (id, name, properties = []) =>
  record(
    'Model',
    [long(id), name, 'Mesh'],
    [
      record('Version', [int(232)]),
      ...(properties.length > 0 ? [record('Properties70', [], properties)] : []),
      record('Shading', [{ type: 'C', value: 1 }]),
    ],
  );
const connect = (from, to) => record('C', ['OO', long(from), long(to)]);
const header = (version) => record('FBXHeaderExtension', [], [record('FBXHeaderVersion', [int(1003)]), record('FBXVersion', [int(version)])]);
const settings = (unit = 1) =>
  record(
    'GlobalSettings',
    [],
    [record('Version', [int(1000)]), record('Properties70', [], [P('UpAxis', 'int', int(1)), P('UnitScaleFactor', 'double', unit)])],
  );

function tree({
  version = 7400,
  sections = [settings()],
  layers = [],
  models = [model(200, 'Model::prism')],
  links = [connect(200, 0), connect(100, 200)],
  objects = [],
} = {}) {
  return {
    version,
    records: [header(version), ...sections, record('Objects', [], [geometry(layers), ...models, ...objects]), record('Connections', [], links)],
  };
}

function ascii({ version, records }, { end = '\n', comments = false } = {}) {
  const lines = [`; FBX ${(version / 1000).toFixed(1)}.0 project file`, ''];
  const value = (p) => (typeof p === 'string' ? `"${p}"` : typeof p === 'number' ? String(p) : p.type === 'C' ? 'T' : String(p.value));
  const write = ({ name, properties, inner }, depth) => {
    const tab = '\t'.repeat(depth);
    const array = properties.find((p) => Array.isArray(p.value));
    if (array) lines.push(`${tab}${name}: *${array.value.length} {`, `${tab}\ta: ${array.value.join(',')}`, `${tab}}`);
    else if (inner.length === 0 && properties.length > 0) lines.push(`${tab}${name}: ${properties.map(value).join(', ')}`);
    else {
      lines.push(`${tab}${name}: ${properties.map(value).join(', ')}${properties.length > 0 ? ' ' : ' '}{`);
      if (comments) lines.push(`${tab}\t; a remark`);
      for (const child of inner) write(child, depth + 1);
      lines.push(`${tab}}`);
    }
  };
  for (const one of records) write(one, 0);
  return text(lines.join(end) + end);
}

function binary({ version, records }, { packed = false } = {}) {
  const wide = version >= 7500;
  const property = (p) => {
    if (typeof p === 'string') return Buffer.concat([Buffer.from('S'), u32(Buffer.byteLength(p)), Buffer.from(p)]);
    if (typeof p === 'number') return Buffer.concat([Buffer.from('D'), f64(p)]);
    if (p.type === 'I') return Buffer.concat([Buffer.from('I'), i32(p.value)]);
    if (p.type === 'C') return Buffer.concat([Buffer.from('C'), Buffer.from([p.value])]);
    if (p.type === 'L') return Buffer.concat([Buffer.from('L'), i64(p.value)]);
    const data = Buffer.concat(p.value.map(p.type === 'd' ? f64 : i32));
    const stored = packed ? deflateSync(data) : data;
    return Buffer.concat([Buffer.from(p.type), u32(p.value.length), u32(packed ? 1 : 0), u32(stored.length), stored]);
  };
  const size = wide ? 8 : 4;
  const nil = Buffer.alloc(size * 3 + 1);
  const write = ({ name, properties, inner }, at) => {
    const own = Buffer.concat(properties.map(property));
    const start = at + size * 3 + 1 + name.length + own.length;
    const children = [];
    let end = start;
    // A record without properties or with inner ones is closed by an empty one.
    if (inner.length > 0) {
      for (const child of inner) {
        const bytes = write(child, end);
        children.push(bytes);
        end += bytes.length;
      }
      children.push(nil);
      end += nil.length;
    }
    const number = (value) => (wide ? i64(value) : u32(value));
    return Buffer.concat([
      number(end),
      number(properties.length),
      number(own.length),
      Buffer.from([name.length]),
      Buffer.from(name),
      own,
      ...children,
    ]);
  };
  const head = Buffer.concat([Buffer.from('Kaydara FBX Binary  \0\x1a\0', 'latin1'), u32(version)]);
  const parts = [head];
  let at = head.length;
  for (const one of records) {
    const bytes = write(one, at);
    parts.push(bytes);
    at += bytes.length;
  }
  return new Uint8Array(Buffer.concat([...parts, nil, Buffer.alloc(160)]));
}
const u32 = (value) => Buffer.from(Uint32Array.of(value).buffer);
const i32 = (value) => Buffer.from(Int32Array.of(value).buffer);
const f64 = (value) => Buffer.from(Float64Array.of(value).buffer);
const i64 = (value) => Buffer.from(BigInt64Array.of(BigInt(value)).buffer);

const uvs = polygons.flat().flatMap((corner) => [points[corner][0] / 3, points[corner][1] / 2]);
const byCorner = record(
  'LayerElementUV',
  [int(0)],
  [
    record('Version', [int(101)]),
    record('Name', ['map']),
    record('MappingInformationType', ['ByPolygonVertex']),
    record('ReferenceInformationType', ['IndexToDirect']),
    record('UV', [doubles(uvs)]),
    record('UVIndex', [ints(polygons.flat().map((_, i) => i))]),
  ],
);
const allSame = record(
  'LayerElementMaterial',
  [int(0)],
  [
    record('Version', [int(101)]),
    record('Name', ['']),
    record('MappingInformationType', ['AllSame']),
    record('ReferenceInformationType', ['IndexToDirect']),
    record('Materials', [ints([0])]),
  ],
);
const material = record('Material', [long(300), 'Material::stone', ''], [record('Version', [int(102)]), record('ShadingModel', ['phong'])]);

export const fbx = {
  'ASCII, nothing but what is needed': { bytes: ascii(tree({ sections: [] })) },
  'ASCII with settings': { bytes: ascii(tree()) },
  'ASCII with lines of Windows and remarks': { bytes: ascii(tree(), { end: '\r\n', comments: true }) },
  'ASCII 7.5': { bytes: ascii(tree({ version: 7500 })) },
  'binary 7.4': { bytes: binary(tree()) },
  'binary 7.5, whose numbers are wider': { bytes: binary(tree({ version: 7500 })) },
  'binary with packed arrays': { bytes: binary(tree(), { packed: true }) },
  'binary without settings': { bytes: binary(tree({ sections: [] })) },
  'texture coordinates by corner, one material': {
    bytes: binary(tree({ layers: [byCorner, allSame], objects: [material], links: [connect(200, 0), connect(100, 200), connect(300, 200)] })),
    uvs: true,
  },
  'the same in ASCII': {
    bytes: ascii(tree({ layers: [byCorner, allSame], objects: [material], links: [connect(200, 0), connect(100, 200), connect(300, 200)] })),
    uvs: true,
  },
  'moved and scaled': {
    bytes: binary(
      tree({ models: [model(200, 'Model::prism', [P('Lcl Translation', 'Lcl Translation', 10, 0, 0), P('Lcl Scaling', 'Lcl Scaling', 2, 2, 2)])] }),
    ),
    min: [10, 0, 0],
    max: [16, 4, 2],
    area: 72,
  },
  'turned before and moved within': {
    bytes: ascii(
      tree({
        models: [model(200, 'Model::prism', [P('PreRotation', 'Vector3D', 0, 90, 0), P('GeometricTranslation', 'Vector3D', 0, 0, 1)])],
      }),
    ),
    // Turned by 90° about y: z goes to x, x to -z.
    min: [1, 0, -3],
    max: [2, 2, 0],
  },
  'models within models': {
    bytes: binary(
      tree({
        models: [model(200, 'Model::prism'), model(201, 'Model::above', [P('Lcl Translation', 'Lcl Translation', 0, 5, 0)])],
        links: [connect(201, 0), connect(200, 201), connect(100, 200)],
      }),
    ),
    min: [0, 5, 0],
    max: [3, 7, 1],
  },
  'one geometry in two models': {
    bytes: ascii(
      tree({
        models: [model(200, 'Model::a'), model(201, 'Model::b', [P('Lcl Translation', 'Lcl Translation', 10, 0, 0)])],
        links: [connect(200, 0), connect(201, 0), connect(100, 200), connect(100, 201)],
      }),
    ),
    triangles: 40,
    max: [13, 2, 1],
    area: 36,
  },
  'names without their class': { bytes: ascii(tree({ models: [model(200, 'prism')] })) },
};

export const badFbx = {
  'a version that is too old': [ascii(tree({ version: 6100 })), /FBX 6.1; only 7.0 and newer/],
  'no objects': [ascii({ version: 7400, records: [header(7400), record('Connections', [], [connect(1, 0)])] }), /no Objects/],
  'no connections': [ascii({ version: 7400, records: [header(7400), record('Objects', [], [geometry()])] }), /no Connections/],
  'an open bracket': [text(new TextDecoder().decode(ascii(tree())).replace(/}\s*$/, '')), /bracket is open/],
  'a binary file that is cut off': [binary(tree()).slice(0, 400), /byte \d+/],
  'an array that declares more than it holds': [
    (() => {
      const bytes = binary(tree(), { packed: true });
      const at = Buffer.from(bytes).indexOf('Vertices') + 'Vertices'.length + 1;
      new DataView(bytes.buffer).setUint32(at, 4_000_000_000, true);
      return bytes;
    })(),
    /declares \d+ bytes in \d+/,
  ],
};
