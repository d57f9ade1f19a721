/** OBJ, STL and PLY in the forms that other programs write. */
import { points, polygons, text, triangles } from './shape.mjs';

const v = points.map((point) => `v ${point.join(' ')}`);
const f = polygons.map((polygon) => `f ${polygon.map((i) => i + 1).join(' ')}`);
const obj = (lines, end = '\n') => text(lines.join(end) + end);

export const objVariants = {
  plain: { bytes: obj([...v, ...f]) },
  'lines of Windows, tabs, trailing blanks': {
    bytes: obj(
      [...v, ...f].map((line) => `${line.replaceAll(' ', '\t')}  `),
      '\r\n',
    ),
  },
  'no line end at the end': { bytes: text([...v, ...f].join('\n')) },
  'byte-order mark and remarks': { bytes: text(`\ufeff# made by hand\n\n${[...v, '# faces', ...f].join('\n')}\n`) },
  'numbers from the end': { bytes: obj([...v, ...polygons.map((polygon) => `f ${polygon.map((i) => i - points.length).join(' ')}`)]) },
  'normals without texture coordinates': {
    bytes: obj([...v, 'vn 0 0 1', ...polygons.map((polygon) => `f ${polygon.map((i) => `${i + 1}//1`).join(' ')}`)]),
  },
  'colours and weights behind the position': { bytes: obj([...v.map((line) => `${line} 1 0.5 0.25`), ...f]) },
  exponents: { bytes: obj([...points.map((point) => `v ${point.map((n) => n.toExponential(3)).join(' ')}`), ...f]) },
  'continued lines': { bytes: obj([...v, ...f.map((line) => line.replace(/^(f \d+) /, '$1 \\\n  '))]) },
  'groups, objects, unknown statements': {
    bytes: obj([
      'mtllib none.mtl',
      'o a b',
      ...v,
      'g x y',
      's 1',
      'usemtl constructor',
      ...f.slice(0, 2),
      'g',
      'usemtl __proto__',
      ...f.slice(2),
      'vp 0 0',
      'l 1 2',
      'p 1',
    ]),
  },
};

const facet = (triangle, format = (n) => String(n)) =>
  `facet normal 0 0 0\n outer loop\n${triangle.map((i) => `  vertex ${points[i].map(format).join(' ')}`).join('\n')}\n endloop\nendfacet`;
const stl = (name, list, format) => `solid ${name}\n${list.map((triangle) => facet(triangle, format)).join('\n')}\nendsolid ${name}\n`;
function binaryStl(head) {
  const bytes = new Uint8Array(84 + triangles.length * 50);
  const view = new DataView(bytes.buffer);
  bytes.set(text(head).subarray(0, 80));
  view.setUint32(80, triangles.length, true);
  triangles.forEach((triangle, t) =>
    triangle.forEach((corner, k) => points[corner].forEach((n, axis) => view.setFloat32(84 + t * 50 + 12 + k * 12 + axis * 4, n, true))),
  );
  return bytes;
}
export const stlVariants = {
  ascii: { bytes: text(stl('prism', triangles)) },
  'ascii in capitals with lines of Windows': { bytes: text(stl('prism', triangles).toUpperCase().replaceAll('\n', '\r\n')) },
  'ascii with exponents': { bytes: text(stl('', triangles, (n) => n.toExponential(6))) },
  'several solids': { bytes: text(stl('a', triangles.slice(0, 10)) + stl('b', triangles.slice(10))) },
  binary: { bytes: binaryStl('made by a program') },
  'binary with bytes behind it': { bytes: Uint8Array.from([...binaryStl('made by a program'), 1, 2, 3]) },
  'binary that begins with "solid"': { bytes: binaryStl('solid but binary') },
};

const ply = ({ format = 'ascii 1.0', list = 'uchar int', name = 'vertex_indices', extra = [], body }) =>
  `ply\nformat ${format}\ncomment a remark\nelement vertex ${points.length}\nproperty float x\nproperty float y\nproperty float z\n${extra.map((p) => `property ${p}\n`).join('')}element face ${polygons.length}\nproperty list ${list} ${name}\nend_header\n${body}`;
const asciiBody = (tail = '') =>
  [...points.map((point) => point.join(' ') + tail), ...polygons.map((polygon) => `${polygon.length} ${polygon.join(' ')}`)].join('\n') + '\n';
function binaryPly(little) {
  const head = text(ply({ format: `binary_${little ? 'little' : 'big'}_endian 1.0`, body: '' }));
  const corners = polygons.flat().length;
  const bytes = new Uint8Array(head.length + points.length * 12 + polygons.length + corners * 4);
  bytes.set(head);
  const view = new DataView(bytes.buffer);
  let at = head.length;
  for (const n of points.flat()) {
    view.setFloat32(at, n, little);
    at += 4;
  }
  for (const polygon of polygons) {
    bytes[at++] = polygon.length;
    for (const corner of polygon) {
      view.setInt32(at, corner, little);
      at += 4;
    }
  }
  return bytes;
}
export const plyVariants = {
  ascii: { bytes: text(ply({ body: asciiBody() })) },
  'the other name and other types': { bytes: text(ply({ list: 'uint8 uint32', name: 'vertex_index', body: asciiBody() })) },
  'more properties': { bytes: text(ply({ extra: ['uchar red', 'uchar green', 'uchar blue', 'float quality'], body: asciiBody(' 255 128 0 0.5') })) },
  'lines of Windows': { bytes: text(ply({ body: asciiBody() }).replaceAll('\n', '\r\n')) },
  'binary, little end first': { bytes: binaryPly(true) },
  'binary, big end first': { bytes: binaryPly(false) },
};
