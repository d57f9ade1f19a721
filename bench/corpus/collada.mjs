/** COLLADA in the forms that the standard (1.4.1, 1.5.0) leaves to the exporter. */
import { fans, points, polygons, strip, text, triangles } from './shape.mjs';

const uv = points.map(([x, y]) => [x / 3, y / 2]).flat();
const flat = points.flat();
const join = (values) => values.join(' ');

const source = (id, values, params, { stride = true, array = '' } = {}) =>
  `<source id="${id}"><float_array id="${id}-array" count="${values.length}">${array || join(values)}</float_array>
<technique_common><accessor source="#${id}-array" count="${values.length / params.length}"${stride ? ` stride="${params.length}"` : ''}>${params
    .map((name) => `<param name="${name}" type="float"/>`)
    .join('')}</accessor></technique_common></source>`;

const SOURCES = source('pos', flat, ['X', 'Y', 'Z']) + source('uvs', uv, ['S', 'T']);
const VERTICES = '<vertices id="verts"><input semantic="POSITION" source="#pos"/></vertices>';
const VERTEX = '<input semantic="VERTEX" source="#verts" offset="0"/>';
const p = (corners) => `<p>${join(corners)}</p>`;
const polylist = (attributes = '', inputs = VERTEX, each = (i) => [i]) =>
  `<polylist count="${polygons.length}"${attributes}>${inputs}<vcount>${join(polygons.map((polygon) => polygon.length))}</vcount>${p(polygons.flat().flatMap(each))}</polylist>`;

const NODE = '<node id="n"><instance_geometry url="#g"/></node>';
function dae({
  head = '<?xml version="1.0" encoding="utf-8"?>',
  version = '1.4.1',
  asset = '<asset><unit meter="1" name="meter"/><up_axis>Y_UP</up_axis></asset>',
  sources = SOURCES,
  vertices = VERTICES,
  primitives = polylist(),
  mesh = sources + vertices + primitives,
  before = '',
  after = '',
  nodes = NODE,
  libraries = (parts) => parts,
  scene = '<scene><instance_visual_scene url="#s"/></scene>',
} = {}) {
  const parts = [
    `<library_geometries><geometry id="g" name="g"><mesh>${mesh}</mesh></geometry></library_geometries>`,
    `<library_visual_scenes><visual_scene id="s">${nodes}</visual_scene></library_visual_scenes>`,
  ];
  return `${head}\n<COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="${version}">${asset}${before}${libraries(parts).join('\n')}${after}${scene}</COLLADA>`;
}

const utf16 = (content, big) => {
  const bytes = new Uint8Array(2 + content.length * 2);
  const view = new DataView(bytes.buffer);
  view.setUint16(0, 0xfeff, !big);
  for (let i = 0; i < content.length; i++) view.setUint16(2 + i * 2, content.charCodeAt(i), !big);
  return bytes;
};

const channel = (id, axis, values) => `<animation id="${id}">
${source(`${id}-in`, [0, 1], ['TIME'])}${source(`${id}-out`, values, [axis])}
<source id="${id}-how"><Name_array id="${id}-how-a" count="2">LINEAR LINEAR</Name_array><technique_common><accessor source="#${id}-how-a" count="2" stride="1"><param name="INTERPOLATION" type="name"/></accessor></technique_common></source>
<sampler id="${id}-s"><input semantic="INPUT" source="#${id}-in"/><input semantic="OUTPUT" source="#${id}-out"/><input semantic="INTERPOLATION" source="#${id}-how"/></sampler>
<channel source="#${id}-s" target="n/move.${axis}"/></animation>`;

/** By name: bytes, and what differs from the shape as it is. */
export const collada = {
  polylist: { bytes: text(dae()) },
  triangles: { bytes: text(dae({ primitives: `<triangles count="${triangles.length}">${VERTEX}${p(triangles.flat())}</triangles>` })) },
  'polygons with one p each': {
    bytes: text(dae({ primitives: `<polygons count="${polygons.length}">${VERTEX}${polygons.map(p).join('')}</polygons>` })),
  },
  'strips and fans': {
    bytes: text(
      dae({ primitives: `<tristrips count="1">${VERTEX}${p(strip)}</tristrips><trifans count="2">${VERTEX}${fans.map(p).join('')}</trifans>` }),
    ),
  },
  'several strips': {
    bytes: text(
      dae({
        primitives: `<tristrips count="2">${VERTEX}${p(strip.slice(0, 8))}${p(strip.slice(6))}</tristrips><trifans count="2">${VERTEX}${fans.map(p).join('')}</trifans>`,
      }),
    ),
  },
  'UTF-16, little end first': { bytes: utf16(dae({ head: '<?xml version="1.0" encoding="utf-16"?>' }), false) },
  'UTF-16, big end first': { bytes: utf16(dae({ head: '<?xml version="1.0" encoding="UTF-16"?>' }), true) },
  'Latin-1': {
    bytes: Uint8Array.from(dae({ head: '<?xml version="1.0" encoding="ISO-8859-1"?>', nodes: NODE.replace('id="n"', 'id="n" name="Mühle"') }), (c) =>
      c.charCodeAt(0),
    ),
  },
  'byte-order mark and lines of Windows': { bytes: text(`\ufeff${dae().replaceAll('\n', '\r\n')}`) },
  'numbers with exponents': {
    bytes: text(
      dae({
        sources: source(
          'pos',
          flat.map((v) => v.toExponential(6).toUpperCase()),
          ['X', 'Y', 'Z'],
        ),
      }),
    ),
  },
  'numbers on many lines': { bytes: text(dae({ sources: source('pos', flat, ['X', 'Y', 'Z'], { array: `\n  ${flat.join('\n\t')}\n` }) })) },
  'inputs in another order': {
    bytes: text(
      dae({
        primitives: polylist(
          '',
          '<input semantic="TEXCOORD" source="#uvs" offset="0" set="0"/><input semantic="VERTEX" source="#verts" offset="1"/>',
          (i) => [i, i],
        ),
      }),
    ),
  },
  'one offset for all': {
    bytes: text(dae({ primitives: polylist('', `${VERTEX}<input semantic="TEXCOORD" source="#uvs" offset="0" set="0"/>`) })),
  },
  'texture coordinates from set 1': {
    bytes: text(dae({ primitives: polylist('', `${VERTEX}<input semantic="TEXCOORD" source="#uvs" offset="0" set="1"/>`) })),
    uvs: true,
  },
  'no stride': { bytes: text(dae({ sources: source('pos', flat, ['X', 'Y', 'Z'], { stride: false }) })) },
  'no count': { bytes: text(dae({ primitives: polylist().replace(/ count="\d+"/, '') })) },
  'two materials, one of them not stated': {
    bytes: text(
      dae({
        primitives: `<polygons count="2" material="stone">${VERTEX}${polygons.slice(0, 2).map(p).join('')}</polygons><polygons count="6">${VERTEX}${polygons.slice(2).map(p).join('')}</polygons>`,
      }),
    ),
  },
  'libraries in another order': { bytes: text(dae({ libraries: (parts) => parts.reverse() })) },
  'no scene but a visual scene': { bytes: text(dae({ scene: '' })) },
  'no asset': { bytes: text(dae({ asset: '' })) },
  'unit without a value': { bytes: text(dae({ asset: '<asset><unit name="meter"/></asset>' })) },
  'empty optional elements': {
    bytes: text(
      dae({
        asset: '<asset><contributor/><up_axis/></asset>',
        nodes:
          '<node id="n"><translate></translate><rotate/><scale> </scale><matrix/><instance_geometry url="#g"><bind_material><technique_common/></bind_material></instance_geometry></node><node/>',
        primitives: `<triangles count="0">${VERTEX}</triangles><lines count="0">${VERTEX}<p/></lines>${polylist()}`,
        before:
          '<library_images/><library_materials/><library_effects><effect id="e"><profile_COMMON><technique sid="t"><phong><diffuse><color/></diffuse></phong></technique></profile_COMMON></effect></library_effects>',
      }),
    ),
  },
  'comments within numbers': { bytes: text(dae({ primitives: polylist().replace('<p>', '<p><!-- corners -->') })) },
  'centimetres, z up': {
    bytes: text(
      dae({
        asset: '<asset><unit meter="0.01" name="cm"/><up_axis>Z_UP</up_axis></asset>',
        sources: source(
          'pos',
          points.flatMap(([x, y, z]) => [x * 100, -z * 100, y * 100]),
          ['X', 'Y', 'Z'],
        ),
      }),
    ),
    min: [0, 0, 0],
    max: [3, 2, 1],
  },
  'nested transforms': {
    bytes: text(
      dae({
        nodes:
          '<node id="a"><translate>10 0 0</translate><node id="b"><rotate>0 1 0 90</rotate><node id="n"><matrix>2 0 0 0 0 2 0 0 0 0 2 0 0 0 0 1</matrix><instance_geometry url="#g"/></node></node></node>',
      }),
    ),
    // Turned by 90° about y: x goes to -z, z to x.
    min: [10, 0, -6],
    max: [12, 4, 0],
    area: 18 * 4,
  },
  'instances, one of them mirrored': {
    bytes: text(
      dae({
        before: '<library_nodes><node id="lib"><instance_geometry url="#g"/></node></library_nodes>',
        nodes: '<node id="n"><instance_node url="#lib"/></node><node id="m"><scale>-1 1 1</scale><instance_node url="#lib"/></node>',
      }),
    ),
    triangles: 40,
    min: [-3, 0, 0],
    max: [3, 2, 1],
    area: 36,
  },
  'references to nothing': {
    bytes: text(
      dae({ nodes: `${NODE}<node><instance_geometry url="#none"/><instance_light url="#none"/><instance_geometry url="other.dae#g"/></node>` }),
    ),
  },
  'channels of one target in animations of their own': {
    bytes: text(
      dae({
        nodes: '<node id="n"><translate sid="move">0 0 0</translate><instance_geometry url="#g"/></node>',
        after: `<library_animations>${channel('ax', 'X', [0, 1])}${channel('ay', 'Y', [0, 2])}${channel('az', 'Z', [0, 3])}</library_animations>`,
      }),
    ),
    clip: { translation: [0, 0, 0, 1, 2, 3] },
  },
};

/** What cannot be read, and what has to be said of it. */
export const badCollada = {
  'a corner that is not there': [text(dae({ primitives: polylist().replace('<p>0 ', '<p>99 ') })), /VERTEX number 99, and there are 12/],
  'a node that holds itself': [
    text(
      dae({
        before: '<library_nodes><node id="lib"><instance_node url="#lib"/></node></library_nodes>',
        nodes: '<node><instance_node url="#lib"/></node>',
      }),
    ),
    /holds itself/,
  ],
  'nodes that double and double': [
    text(
      dae({
        before: `<library_nodes>${Array.from({ length: 40 }, (_, i) => `<node id="d${i}">${i === 39 ? '<instance_geometry url="#g"/>' : `<instance_node url="#d${i + 1}"/><instance_node url="#d${i + 1}"/>`}</node>`).join('')}</library_nodes>`,
        nodes: '<node><instance_node url="#d0"/></node>',
      }),
    ),
    /more than 100,000 things/,
  ],
  'nothing but lines': [text(dae({ primitives: `<lines count="1">${VERTEX}<p>0 1</p></lines>` })), /no triangles/],
  'no scene at all': [text(dae({ scene: '' }).replace(/<library_visual_scenes>.*<\/library_visual_scenes>/s, '')), /no scene/],
};
