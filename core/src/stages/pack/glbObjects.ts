/**
 * Objects of a packed map as nodes with `extras.object`, their id: lit lamps and suns by KHR_lights_punctual, and models.
 * Copies of the crate's own models share their meshes; stock models must not travel and are named in `extras.model`.
 */

import { WebIO, type Document, type Node, type Scene } from '@gltf-transform/core';
import { KHRLightsPunctual, KHRTextureBasisu } from '@gltf-transform/extensions';
import { copyToDocument } from '@gltf-transform/functions';
import { UnreadableInput } from '../../unreadable.ts';
import { cross, dot, length, normalise, scale, type Vec3 } from '../../math/vec3.ts';
import { own } from '../../own.ts';
import type { Light } from '../../part/lightSource.ts';
import type { ReadFile } from './glbMaterials.ts';
import { toGltf } from './gltfSpace.ts';
import type { OwnFile, PackingInputs } from './inputs.ts';

export async function addObjects(
  document: Document,
  scene: Scene,
  inputs: PackingInputs,
  readFile: ReadFile | undefined,
): Promise<{ lights: number; models: number }> {
  const { map, metresPerUnit: metres } = inputs;
  const counts = { lights: 0, models: 0 };
  const prototypes = new Map<string, Node[] | null>();
  for (const [id, object] of Object.entries(map.objects).sort(([a], [b]) => (a < b ? -1 : 1))) {
    const light = own(inputs.lights, id);
    if (light) {
      scene.addChild(lightNode(document, object.name, light, metres).setExtras({ object: id }));
      counts.lights++;
    }
    const model = own(inputs.shown, id);
    if (!model) continue;
    const half = (object.turn * Math.PI) / 360;
    const node = document
      .createNode(object.name)
      .setTranslation(toGltf(object.position, metres))
      .setRotation([0, Math.sin(half), 0, Math.cos(half)])
      .setExtras({ object: id, model });
    if (!prototypes.has(model)) prototypes.set(model, await prototype(document, own(inputs.models, model)?.file, readFile));
    for (const child of prototypes.get(model) ?? []) node.addChild(copyOf(document, child));
    scene.addChild(node);
    counts.models++;
  }
  for (const nodes of prototypes.values()) nodes?.forEach(disposeTree);
  return counts;
}

/** The nodes of a model of the crate's own, copied in once; null for stock models and where nothing is to be embedded. */
async function prototype(document: Document, file: OwnFile | undefined, readFile: ReadFile | undefined): Promise<Node[] | null> {
  if (!readFile || !file) return null;
  const { path } = file;
  const source = await new WebIO()
    .registerExtensions([KHRTextureBasisu])
    .readBinary(await readFile(path))
    .catch((error: unknown) => {
      const hint = 'Import it again, or build with “Pictures and models in the map” at none.';
      throw new UnreadableInput('model-damaged', `${path} cannot be put into the map: ${(error as Error).message}`, { file: path }, hint);
    });
  const root = source.getRoot();
  const nodes = (root.getDefaultScene() ?? root.listScenes()[0])?.listChildren() ?? [];
  const copies = copyToDocument(document, source, nodes);
  // Its buffer came along; all data lies in the map's own.
  const [buffer, ...others] = document.getRoot().listBuffers();
  for (const accessor of document.getRoot().listAccessors()) accessor.setBuffer(buffer);
  for (const other of others) other.dispose();
  return nodes.map((node) => copies.get(node) as Node);
}

/** A node with all below it; meshes are shared. Rigs stay at rest: who animates loads the model by its name. */
function copyOf(document: Document, node: Node): Node {
  const copy = document
    .createNode(node.getName())
    .setTranslation(node.getTranslation())
    .setRotation(node.getRotation())
    .setScale(node.getScale())
    .setMesh(node.getMesh());
  for (const child of node.listChildren()) copy.addChild(copyOf(document, child));
  return copy;
}

function disposeTree(node: Node): void {
  node.listChildren().forEach(disposeTree);
  node.getSkin()?.dispose();
  node.dispose();
}

/** A lamp or a sun. Intensities are candela, and lux for suns. */
function lightNode(document: Document, name: string, found: Light, metres: number): Node {
  const make = (type: 'point' | 'spot' | 'directional', colour: Vec3, intensity: number) => {
    const light = document.createExtension(KHRLightsPunctual).createLight(name).setType(type).setColor(colour).setIntensity(intensity);
    return { light, node: document.createNode(name).setExtension('KHR_lights_punctual', light) };
  };
  if (found.kind === 'sun') {
    const sun = found.light;
    // `intensity` is E/π of a surface that faces the sun.
    const { node } = make('directional', sun.colour, sun.intensity * Math.PI);
    return node.setRotation(facing(toGltf(scale(sun.towards, -1), 1)));
  }
  const lamp = found.light;
  const { light, node } = make(lamp.cone ? 'spot' : 'point', lamp.colour, lamp.intensity);
  if (lamp.reach > 0) light.setRange(lamp.reach * metres);
  node.setTranslation(toGltf(lamp.position, metres));
  if (!lamp.cone) return node;
  // The standard wants the inner angle below the outer one, and that at most a right angle.
  const outer = Math.acos(lamp.cone.outer);
  light.setOuterConeAngle(Math.min(Math.PI / 2, outer)).setInnerConeAngle(Math.min(outer * 0.999, Math.acos(Math.min(1, lamp.cone.inner))));
  return node.setRotation(facing(toGltf(lamp.cone.direction, 1)));
}

/** The rotation (x, y, z, w) that turns -z, along which glTF's lights shine, into a unit direction: the shortest one. */
export function facing(direction: Vec3): [number, number, number, number] {
  const from: Vec3 = [0, 0, -1];
  const cosine = dot(from, direction);
  if (cosine < -1 + 1e-9) return [0, 1, 0, 0];
  const axis = cross(from, direction);
  const size = length(axis);
  if (size < 1e-12) return [0, 0, 0, 1];
  const half = Math.acos(Math.min(1, cosine)) / 2;
  const [x, y, z] = scale(normalise(axis), Math.sin(half));
  return [x, y, z, Math.cos(half)];
}
