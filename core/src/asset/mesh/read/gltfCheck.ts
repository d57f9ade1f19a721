/**
 * Looks through the JSON of a glTF 2.0 file before anything is decoded: what is not as the standard has it is told
 * with its JSON pointer (RFC 6901), and what declares more than a file may take is refused while it is a number only.
 * It asks for what reading needs, not for all that the standard does.
 */

import { UnreadableInput } from '../../../unreadable.ts';

/** Bytes of one component, by componentType (glTF 2.0, 3.6.2.2). */
const COMPONENT_BYTES: Record<number, number> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
/** Components of one element, by type. */
const COMPONENTS: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 };

export interface GltfLimits {
  /** Bytes that all accessors may have together, as decoded. */
  bytes: number;
  /** Items of any list. */
  items: number;
}
const GLTF_LIMITS: GltfLimits = { bytes: 2 ** 30, items: 1_000_000 };

type Json = Record<string, unknown>;
type Shape = (value: unknown, at: string) => void;

/**
 * @param sizes bytes of the buffers that are known, by index
 * @throws UnreadableInput naming what is wrong and where
 */
export function checkGltf(json: unknown, file: string, sizes: readonly (number | undefined)[] = [], limits = GLTF_LIMITS): void {
  const fail = (at: string, message: string): never => {
    throw new UnreadableInput(
      'gltf-invalid',
      `${file}: ${at || 'the document'} ${message}.`,
      { file },
      'Export it again as one GLB file with everything embedded.',
    );
  };
  const isObject = (value: unknown): value is Json => typeof value === 'object' && value !== null && !Array.isArray(value);
  if (!isObject(json)) return fail('', 'is no JSON object');

  const demand = (ok: boolean, at: string, wanted: string, value: unknown): void => {
    if (!ok) fail(at, `has to be ${wanted}, and is ${show(value)}`);
  };
  const whole =
    (least: number): Shape =>
    (value, at) =>
      demand(Number.isSafeInteger(value) && (value as number) >= least, at, `a whole number from ${least} on`, value);
  const numbers =
    (count: number): Shape =>
    (value, at) =>
      demand(Array.isArray(value) && value.length === count && value.every((v) => typeof v === 'number'), at, `${count} numbers`, value);
  const oneOf =
    (...values: readonly unknown[]): Shape =>
    (value, at) =>
      demand(values.includes(value), at, `one of ${values.join(', ')}`, value);
  const text: Shape = (value, at) => demand(typeof value === 'string' && value !== '', at, 'a text', value);
  const name: Shape = (value, at) => demand(typeof value === 'string', at, 'a text', value);
  const length = (list: string): number => (Array.isArray(json[list]) ? (json[list] as unknown[]).length : 0);
  /** The number of something in a list of the document. */
  const indexOf =
    (list: string): Shape =>
    (value, at) => {
      whole(0)(value, at);
      if ((value as number) >= length(list)) fail(at, `asks for number ${show(value)} of ${list}, and there are ${length(list)}`);
    };
  const list =
    (of: Shape): Shape =>
    (value, at) => {
      if (!Array.isArray(value)) return fail(at, `has to be a list, and is ${show(value)}`);
      if (value.length > limits.items) fail(at, `has ${value.length} entries; at most ${limits.items} are taken`);
      value.forEach((item, i) => of(item, `${at}/${i}`));
    };
  /** An object with some members, of which those in `needed` have to be there. What is not named may be anything. */
  const object =
    (members: Record<string, Shape>, needed: readonly string[] = []): Shape =>
    (value, at) => {
      if (!isObject(value)) return fail(at, `has to be an object, and is ${show(value)}`);
      for (const key of needed) if (!Object.hasOwn(value, key)) fail(at, `lacks "${key}"`);
      for (const [key, shape] of Object.entries(members)) if (value[key] !== undefined) shape(value[key], `${at}/${key}`);
    };
  const everyMember =
    (of: Shape): Shape =>
    (value, at) => {
      if (!isObject(value)) return fail(at, `has to be an object, and is ${show(value)}`);
      for (const [key, member] of Object.entries(value)) of(member, `${at}/${key}`);
    };
  const texture = object({ index: indexOf('textures'), texCoord: whole(0) }, ['index']);
  const sparse = object(
    {
      count: whole(1),
      indices: object({ bufferView: indexOf('bufferViews'), byteOffset: whole(0), componentType: oneOf(5121, 5123, 5125) }, [
        'bufferView',
        'componentType',
      ]),
      values: object({ bufferView: indexOf('bufferViews'), byteOffset: whole(0) }, ['bufferView']),
    },
    ['count', 'indices', 'values'],
  );

  object({
    scene: indexOf('scenes'),
    extensionsUsed: list(text),
    extensionsRequired: list(text),
    buffers: list(object({ byteLength: whole(0), uri: text }, ['byteLength'])),
    bufferViews: list(
      object({ buffer: indexOf('buffers'), byteOffset: whole(0), byteLength: whole(0), byteStride: whole(1) }, ['buffer', 'byteLength']),
    ),
    accessors: list(
      object(
        {
          bufferView: indexOf('bufferViews'),
          byteOffset: whole(0),
          count: whole(0),
          componentType: oneOf(...Object.keys(COMPONENT_BYTES).map(Number)),
          type: oneOf(...Object.keys(COMPONENTS)),
          sparse,
        },
        ['count', 'componentType', 'type'],
      ),
    ),
    images: list(object({ uri: text, bufferView: indexOf('bufferViews'), mimeType: text })),
    samplers: list(object({})),
    textures: list(object({ source: indexOf('images'), sampler: indexOf('samplers') })),
    materials: list(
      object({
        name,
        pbrMetallicRoughness: object({
          baseColorTexture: texture,
          metallicRoughnessTexture: texture,
          baseColorFactor: numbers(4),
        }),
        normalTexture: texture,
        occlusionTexture: texture,
        emissiveTexture: texture,
        emissiveFactor: numbers(3),
      }),
    ),
    meshes: list(
      object(
        {
          name,
          primitives: list(
            object(
              {
                attributes: everyMember(indexOf('accessors')),
                indices: indexOf('accessors'),
                material: indexOf('materials'),
                mode: oneOf(0, 1, 2, 3, 4, 5, 6),
                targets: list(everyMember(indexOf('accessors'))),
              },
              ['attributes'],
            ),
          ),
        },
        ['primitives'],
      ),
    ),
    skins: list(object({ joints: list(indexOf('nodes')), skeleton: indexOf('nodes'), inverseBindMatrices: indexOf('accessors') }, ['joints'])),
    nodes: list(
      object({
        name,
        children: list(indexOf('nodes')),
        mesh: indexOf('meshes'),
        skin: indexOf('skins'),
        matrix: numbers(16),
        translation: numbers(3),
        rotation: numbers(4),
        scale: numbers(3),
      }),
    ),
    scenes: list(object({ nodes: list(indexOf('nodes')) })),
    animations: list((value, at) => {
      const samplers = isObject(value) && Array.isArray(value.samplers) ? value.samplers.length : 0;
      const sampler: Shape = (index, where) => {
        whole(0)(index, where);
        if ((index as number) >= samplers) fail(where, `asks for sampler ${show(index)}, and there are ${samplers}`);
      };
      object(
        {
          channels: list(object({ sampler, target: object({ node: indexOf('nodes'), path: text }, ['path']) }, ['sampler', 'target'])),
          samplers: list(object({ input: indexOf('accessors'), output: indexOf('accessors') }, ['input', 'output'])),
        },
        ['channels', 'samplers'],
      )(value, at);
    }),
  })(json, '');

  const parents = new Map<number, number>();
  const nodes = (json.nodes ?? []) as { children?: number[] }[];
  nodes.forEach(({ children = [] }, i) => {
    for (const child of children) {
      if (parents.has(child)) fail(`/nodes/${i}/children`, `holds node ${child}, which node ${parents.get(child)} holds already`);
      parents.set(child, i);
    }
  });
  // With one parent each, a way up that is longer than there are nodes goes round in a circle.
  const safe = new Set<number>();
  nodes.forEach((_, i) => {
    const way: number[] = [];
    for (let up: number | undefined = i; up !== undefined && !safe.has(up); up = parents.get(up)) {
      if (way.length > nodes.length) fail(`/nodes/${i}`, 'lies within itself');
      way.push(up);
    }
    for (const node of way) safe.add(node);
  });

  const buffers = (json.buffers ?? []) as { byteLength: number }[];
  buffers.forEach(({ byteLength }, i) => {
    const size = sizes[i];
    if (size !== undefined && byteLength > size) fail(`/buffers/${i}`, `declares ${byteLength} bytes, and has ${size}`);
  });
  const views = (json.bufferViews ?? []) as {
    buffer: number;
    byteOffset?: number;
    byteLength: number;
    byteStride?: number;
    extensions?: Record<string, { count?: unknown; byteStride?: unknown }>;
  }[];
  let decoded = 0;
  const grow = (bytes: number, at: string) => {
    decoded += bytes;
    if (!(decoded <= limits.bytes)) fail(at, `brings what the file declares to more than ${Math.round(limits.bytes / 2 ** 20)} MB`);
  };
  views.forEach((view, i) => {
    const end = (view.byteOffset ?? 0) + view.byteLength;
    const compressed = view.extensions?.EXT_meshopt_compression ?? view.extensions?.KHR_meshopt_compression;
    // A compressed view lies in a buffer that need not exist; it is decoded to what it declares.
    if (compressed) grow(Number(compressed.count) * Number(compressed.byteStride), `/bufferViews/${i}`);
    else if (end > buffers[view.buffer].byteLength)
      fail(`/bufferViews/${i}`, `ends at byte ${end} of a buffer with ${buffers[view.buffer].byteLength}`);
  });
  (
    (json.accessors ?? []) as {
      bufferView?: number;
      byteOffset?: number;
      count: number;
      componentType: number;
      type: string;
      sparse?: { count: number };
    }[]
  ).forEach((accessor, i) => {
    const element = COMPONENT_BYTES[accessor.componentType] * COMPONENTS[accessor.type];
    grow(accessor.count * element, `/accessors/${i}`);
    if (accessor.sparse && accessor.sparse.count > accessor.count)
      fail(`/accessors/${i}/sparse/count`, `is ${accessor.sparse.count}, more than the ${accessor.count} elements`);
    if (accessor.bufferView === undefined || accessor.count === 0) return;
    const view = views[accessor.bufferView];
    const end = (accessor.byteOffset ?? 0) + (accessor.count - 1) * (view.byteStride ?? element) + element;
    if (end > view.byteLength) fail(`/accessors/${i}`, `runs to byte ${end} of a bufferView with ${view.byteLength}`);
  });
}

/** A value as it stands in a message. */
function show(value: unknown): string {
  const text = JSON.stringify(value) ?? 'nothing';
  return text.length > 40 ? `${text.slice(0, 40)}…` : text;
}
