/**
 * Brings a COLLADA document (1.4.1 and 1.5.0) into the one form that three's loader reads, whatever form of those that
 * the standard allows its exporter chose:
 *
 * | in the file | for the loader |
 * |---|---|
 * | polylist, polygons (one `p` each, or with holes), tristrips, trifans | triangles, in the plane of each polygon |
 * | counts, strides and materials that are not stated | stated, from the data |
 * | texture coordinates whose sets do not begin at 0 | sets 0 and 1, in their order |
 * | several `animation` elements that move parts of one target | one, so that its channels belong together |
 * | empty optional elements, references to what is not there | none |
 * | no `asset`, no `scene` where there is a visual scene | both |
 *
 * Not handled: holes of polygons are closed, `convex_mesh`, `spline` and `brep` are left out (named in `leftOut`).
 */

import type { Document, Element, Node } from '@xmldom/xmldom';
import { UnreadableInput } from '../../../unreadable.ts';
import { triangulate } from '../geometry/triangulate.ts';

/** Nodes of the scene that instances may multiply to. */
const MOST_NODES = 100_000;
/** What may be left out, and is where it says nothing. */
const OPTIONAL = ['matrix', 'translate', 'rotate', 'scale', 'skew', 'lookat', 'bind_shape_matrix', 'color', 'float', 'up_axis', 'vcount', 'v', 'p'];
const INSTANCES = ['geometry', 'controller', 'node', 'light', 'camera', 'effect'];

/** Elements that a mesh is there without, from what is missed least: what is said where they are left out, and their names. */
export const COLLADA_OPTIONAL: readonly [what: string, names: readonly string[]][] = [
  [
    'animations, skins, lights and cameras that cannot be read',
    [
      ...[
        'library_animations',
        'library_animation_clips',
        'library_lights',
        'library_cameras',
        'instance_light',
        'instance_camera',
        'library_controllers',
      ],
      ...['instance_controller', 'library_physics_materials', 'library_physics_models', 'library_physics_scenes', 'instance_physics_scene'],
      ...[
        'library_kinematics_models',
        'library_kinematics_scenes',
        'library_joints',
        'library_articulated_systems',
        'instance_kinematics_scene',
        'extra',
      ],
    ],
  ],
  ['materials that cannot be read', ['library_images', 'library_effects', 'library_materials', 'bind_material']],
];

/** Takes elements out of a document; a skin's instance becomes one of the mesh under it. */
export function withoutElements(document: Document, names: readonly string[]): void {
  const root = document.documentElement;
  if (!root) return;
  const skins = new Map<string, string>();
  const found: Element[] = [];
  walk(root, (element) => {
    if (element.nodeName === 'controller')
      for (const skin of children(element).filter(({ nodeName }) => nodeName === 'skin' || nodeName === 'morph'))
        skins.set(element.getAttribute('id') ?? '', skin.getAttribute('source') ?? '');
    if (names.includes(element.nodeName)) found.push(element);
  });
  for (const element of found) {
    if (element.nodeName === 'instance_controller') {
      let source = element.getAttribute('url') ?? '';
      // A skin over a morph over a mesh.
      for (let n = 0; n < 3 && skins.has(source.slice(1)); n++) source = skins.get(source.slice(1))!;
      const mesh = document.createElement('instance_geometry');
      mesh.setAttribute('url', source);
      for (const binding of children(element, 'bind_material')) mesh.appendChild(binding);
      element.parentNode?.insertBefore(mesh, element);
    }
    element.parentNode?.removeChild(element);
  }
}

export function normaliseCollada(document: Document, file: string, leftOut: (what: string) => void): void {
  const fail = (message: string, hint?: string): never => {
    throw new UnreadableInput('dae-invalid', `${file}: ${message}.`, { file }, hint ?? 'Export it again, or as GLB, which keeps most.');
  };
  const root = document.documentElement;
  if (root?.nodeName !== 'COLLADA') return fail('it has no COLLADA element at its top');
  const byId = new Map<string, Element>();
  const all = new Map<string, Element[]>();
  walk(root, (element) => {
    const id = element.getAttribute('id');
    if (id && !byId.has(id)) byId.set(id, element);
    const named = all.get(element.nodeName);
    if (named) named.push(element);
    else all.set(element.nodeName, [element]);
  });
  const named = (name: string): Element[] => all.get(name) ?? [];
  const make = (name: string, attributes: Record<string, string> = {}): Element => {
    const element = document.createElement(name);
    for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
    return element;
  };

  for (const name of OPTIONAL) for (const element of named(name)) if (isBlank(element)) element.parentNode?.removeChild(element);
  const [asset] = children(root, 'asset');
  if (!asset) root.insertBefore(make('asset'), root.firstChild);
  for (const image of named('image')) if (children(image, 'init_from').length === 0) image.appendChild(make('init_from'));

  for (const kind of INSTANCES)
    for (const instance of named(`instance_${kind}`)) {
      const url = instance.getAttribute('url') ?? '';
      if (url.startsWith('#') && byId.has(url.slice(1))) continue;
      leftOut(url.startsWith('#') ? 'references to what is not in the file' : 'references to other files');
      instance.parentNode?.removeChild(instance);
    }
  checkNodes(named('visual_scene'), byId, fail);

  if (named('convex_mesh').length + named('spline').length + named('brep').length > 0) leftOut('curves and convex hulls');
  for (const mesh of named('mesh')) normaliseMesh(mesh, make, fail, leftOut);
  if (named('instance_animation').length === 0) joinAnimations(named('library_animations'), make);

  const shown = named('instance_visual_scene').some((instance) => byId.has(target(instance, 'url')));
  if (children(root, 'scene').length === 0 || !shown) {
    const [visual] = named('visual_scene');
    if (!visual) return fail('it has no scene, so nothing of it is placed anywhere');
    if (!visual.getAttribute('id')) visual.setAttribute('id', 'the_scene');
    for (const old of children(root, 'scene')) root.removeChild(old);
    const scene = make('scene');
    scene.appendChild(make('instance_visual_scene', { url: `#${visual.getAttribute('id')}` }));
    root.appendChild(scene);
  }
}

const ELEMENT = 1;

/** Calls `see` for an element and all below it, in order; a list instead of calls within calls, for any depth. */
function walk(top: Element, see: (element: Element) => void): void {
  const open: Node[] = [top];
  for (let node = open.pop(); node; node = open.pop()) {
    see(node as Element);
    for (let child = node.lastChild; child; child = child.previousSibling) if (child.nodeType === ELEMENT) open.push(child);
  }
}

function children(parent: Element, name?: string): Element[] {
  const found: Element[] = [];
  for (let child = parent.firstChild; child; child = child.nextSibling)
    if (child.nodeType === ELEMENT && (name === undefined || child.nodeName === name)) found.push(child as Element);
  return found;
}

const isBlank = (element: Element): boolean => children(element).length === 0 && (element.textContent ?? '').trim() === '';

/** The path of a `#reference`. */
const target = (element: Element, attribute: string): string => (element.getAttribute(attribute) ?? '').replace(/^#/, '');

const numbersOf = (element: Element | undefined): number[] => {
  const text = (element?.textContent ?? '').trim();
  return text === '' ? [] : text.split(/\s+/).map(Number);
};

type Fail = (message: string, hint?: string) => never;
type Make = (name: string, attributes?: Record<string, string>) => Element;

/** A node that holds itself would never end, and a few that hold each other twice would be more than anybody can hold. */
function checkNodes(scenes: Element[], byId: ReadonlyMap<string, Element>, fail: Fail): void {
  const counts = new Map<Element, number>();
  const open = new Set<Element>();
  const inner = (node: Element): Element[] => [
    ...children(node, 'node'),
    ...children(node, 'instance_node').flatMap((instance) => byId.get(target(instance, 'url')) ?? []),
  ];
  // Depth first with a list of its own; a node is counted when all that it holds are.
  for (const scene of scenes) {
    const stack = [scene];
    while (stack.length > 0) {
      const node = stack[stack.length - 1];
      const parts = inner(node);
      const next = parts.find((part) => !counts.has(part));
      if (next && !open.has(node)) open.add(node);
      if (next) {
        if (open.has(next)) fail(`node ${next.getAttribute('id') ?? ''} holds itself`);
        stack.push(next);
        continue;
      }
      open.delete(node);
      const count = parts.reduce((sum, part) => sum + counts.get(part)!, 1);
      if (count > MOST_NODES) fail(`its nodes place more than ${MOST_NODES.toLocaleString('en')} things in the scene`);
      counts.set(node, count);
      stack.pop();
    }
  }
}

interface Input {
  semantic: string;
  source: string;
  offset: number;
  set: number;
}

/** A list of numbers and how they belong together. */
interface Source {
  values: number[];
  stride: number;
}

function normaliseMesh(mesh: Element, make: Make, fail: Fail, leftOut: (what: string) => void): void {
  const name = (mesh.parentNode as Element | null)?.getAttribute?.('id') ?? 'a geometry';
  const lengths = new Map<string, number>();
  const parsed = new Map<string, Source>();
  const elements = new Map<string, Element>();
  for (const source of children(mesh, 'source')) {
    const [array] = children(source, 'float_array');
    const [common] = children(source, 'technique_common');
    const [accessor] = common ? children(common, 'accessor') : [];
    // A stride that is not stated is 1 by the schema; what was meant is the number of its parameters.
    if (accessor && !(Number(accessor.getAttribute('stride')) > 0))
      accessor.setAttribute('stride', String(Math.max(1, children(accessor, 'param').length)));
    if (array) elements.set(source.getAttribute('id') ?? '', source);
  }
  const sourceOf = (id: string): Source | null => {
    const known = parsed.get(id);
    if (known) return known;
    const element = elements.get(id);
    if (!element) return null;
    const values = numbersOf(children(element, 'float_array')[0]);
    const [common] = children(element, 'technique_common');
    const stride = Number(common ? children(common, 'accessor')[0]?.getAttribute('stride') : 3) || 3;
    const source = { values, stride };
    parsed.set(id, source);
    lengths.set(id, Math.floor(values.length / stride));
    return source;
  };
  const [vertices] = children(mesh, 'vertices');
  let positionId = '';
  if (vertices)
    for (const input of children(vertices, 'input')) {
      if (!sourceOf(target(input, 'source'))) vertices.removeChild(input);
      else if (input.getAttribute('semantic') === 'POSITION') positionId = target(input, 'source');
    }
  const positions = sourceOf(positionId);

  for (const primitive of children(mesh)) {
    if (primitive.nodeName === 'lines' || primitive.nodeName === 'linestrips') {
      if (children(primitive, 'p').length > 0) leftOut('lines');
      mesh.removeChild(primitive);
    }
    const corners = Object.hasOwn(FORMS, primitive.nodeName) ? FORMS[primitive.nodeName] : undefined;
    if (!corners) continue;
    const inputs = children(primitive, 'input').map((input): Input & { element: Element } => ({
      element: input,
      semantic: input.getAttribute('semantic') ?? '',
      source: target(input, 'source'),
      offset: Number(input.getAttribute('offset') ?? 0) || 0,
      set: Number(input.getAttribute('set') ?? 0) || 0,
    }));
    const vertex = inputs.find((input) => input.semantic === 'VERTEX');
    const width = Math.max(0, ...inputs.map((input) => input.offset)) + 1;
    const polygons = vertex && positions ? corners(primitive, width, leftOut) : [];
    if (!vertex || !positions || polygons.length === 0) {
      mesh.removeChild(primitive);
      continue;
    }
    const kept = keptInputs(inputs, sourceOf);
    const made = make('triangles', { material: primitive.getAttribute('material') || 'none' });
    for (const input of kept) {
      const attributes = { semantic: input.semantic, source: `#${input.source}`, offset: String(input.offset) };
      made.appendChild(make('input', input.set > 0 ? { ...attributes, set: String(input.set) } : attributes));
      const count = input.semantic === 'VERTEX' ? positions.values.length / positions.stride : lengths.get(input.source)!;
      for (const polygon of polygons)
        for (let i = input.offset; i < polygon.length; i += width)
          if (!(polygon[i] >= 0 && polygon[i] < count))
            fail(
              `${name} asks for ${input.semantic} number ${String(polygon[i])}, and there are ${Math.floor(count)}`,
              'The file may be cut off; export it again.',
            );
    }
    const out: number[] = [];
    for (const polygon of polygons) {
      const places: number[] = [];
      for (let i = vertex.offset; i < polygon.length; i += width) places.push(polygon[i]);
      for (const corner of triangulate(places, positions.values)) for (let k = 0; k < width; k++) out.push(polygon[corner * width + k]);
    }
    made.setAttribute('count', String(out.length / width / 3));
    const p = make('p');
    p.appendChild(mesh.ownerDocument!.createTextNode(out.join(' ')));
    made.appendChild(p);
    mesh.replaceChild(made, primitive);
  }
}

/** Inputs with a source; of texture coordinates and colours those that are read, numbered from 0. */
function keptInputs(inputs: readonly Input[], sourceOf: (id: string) => Source | null): Input[] {
  const counted: Record<string, number> = { TEXCOORD: 2, COLOR: 1, NORMAL: 1, VERTEX: 1 };
  const seen = new Map<string, number>();
  return [...inputs]
    .sort((a, b) => a.set - b.set)
    .flatMap((input) => {
      const most = Object.hasOwn(counted, input.semantic) ? counted[input.semantic] : 0;
      const set = seen.get(input.semantic) ?? 0;
      if (set >= most || (input.semantic !== 'VERTEX' && !sourceOf(input.source))) return [];
      seen.set(input.semantic, set + 1);
      return [{ ...input, set }];
    });
}

/** The polygons of a primitive, each as the numbers of its corners, `width` of them per corner. */
type Corners = (primitive: Element, width: number, leftOut: (what: string) => void) => number[][];

const lists = (primitive: Element): number[][] => children(primitive, 'p').map(numbersOf);

function chunks(values: readonly number[], size: number): number[][] {
  const out: number[][] = [];
  for (let i = 0; i + size <= values.length; i += size) out.push(values.slice(i, i + size));
  return out;
}

const FORMS: Record<string, Corners | undefined> = {
  triangles: (primitive, width) => lists(primitive).flatMap((p) => chunks(p, width * 3)),
  polylist(primitive, width) {
    const p = lists(primitive).flat();
    let at = 0;
    return numbersOf(children(primitive, 'vcount')[0]).flatMap((count) => {
      const polygon = p.slice(at, (at += count * width));
      return count >= 3 && polygon.length === count * width ? [polygon] : [];
    });
  },
  polygons(primitive, width, leftOut) {
    const holed = children(primitive, 'ph').flatMap((ph) => {
      leftOut('holes of polygons');
      return children(ph, 'p').map(numbersOf);
    });
    return [...lists(primitive), ...holed].filter((p) => p.length >= width * 3);
  },
  tristrips: (primitive, width) =>
    lists(primitive).flatMap((p) => {
      const corners = chunks(p, width);
      // Every second triangle of a strip is named the other way round.
      return corners.slice(2).map((_, i) => [...corners[i], ...corners[i + 1 + (i % 2)], ...corners[i + 2 - (i % 2)]]);
    }),
  trifans: (primitive, width) =>
    lists(primitive).flatMap((p) => {
      const corners = chunks(p, width);
      return corners.slice(2).map((_, i) => [...corners[0], ...corners[i + 1], ...corners[i + 2]]);
    }),
};

/** Puts the samplers, sources and channels of all animations of a library into one. */
function joinAnimations(libraries: Element[], make: Make): void {
  for (const library of libraries) {
    const all: Element[] = [];
    walk(library, (element) => {
      if (element.nodeName === 'animation') all.push(element);
    });
    if (all.length < 2) continue;
    const joined = make('animation', { id: 'all_animations' });
    for (const animation of all) for (const part of children(animation)) if (part.nodeName !== 'animation') joined.appendChild(part);
    for (const animation of all) animation.parentNode?.removeChild(animation);
    library.appendChild(joined);
  }
}
