/** What lies in a packed map beside its surfaces: pictures, lamps and models, as glTF's own rules have them. */

import { describe, expect, it } from '@jest/globals';
import { WebIO, type Document, type Node } from '@gltf-transform/core';
import { KHRLightsPunctual, KHRTextureBasisu, type Light } from '@gltf-transform/extensions';
import { encode } from 'fast-png';
import fc from 'fast-check';
import { Quaternion, Vector3 } from 'three';
import type { FileTree } from '../../crate/fileTree.ts';
import { importAsset } from '../../importing/importAsset.ts';
import type { CrateMaterial } from '../../crate/manifest.ts';
import { newObject } from '../../profile/newObject.ts';
import type { CrateWorld } from '../../crate/world.ts';
import { UnreadableInput } from '../../unreadable.ts';
import { sha256Hex } from '../../hash.ts';
import { normalise, type Vec3 } from '../../math/vec3.ts';
import { glbErrors } from '../../testing/glb.ts';
import { bytesOf, CUBE } from '../../testing/models.ts';
import { plainStyle } from '../../decal/place.ts';
import { linearOfHex } from '../../math/srgb.ts';
import { QUICK_LIGHT, testWorld } from '../../testing/world.ts';
import { buildMap } from '../pipeline.ts';
import { facing } from './glbObjects.ts';

/** A room of an own textured material with two copies of an own model, one of a stock one, a spot and a sun. */
async function furnished(): Promise<{ world: CrateWorld; files: FileTree }> {
  const world = testWorld();
  const { profile, crate } = world;
  const files: FileTree = new Map();
  const take = async (file: string, bytes: Uint8Array, options: Record<string, unknown> = {}) => {
    const asset = await importAsset(profile, { file, bytes, name: file.replace(/\.[^.]+$/, ''), options, companions: new Map() });
    for (const [path, content] of asset.files) files.set(path, content);
    crate.manifest.assets[asset.path] = asset.record!;
    return asset;
  };
  const data = Uint8Array.from({ length: 8 * 8 * 4 }, (_, i) => (i % 4 === 3 ? 255 : (i * 37) % 256));
  const { material } = await take('lime.png', encode({ width: 8, height: 8, data, channels: 4, depth: 8 }));
  const model = await take('cube.obj', bytesOf(CUBE), { unit: 'm', upAxis: 'z' });
  crate.manifest.materials = [{ name: 'lime', type: 'lit', unitsPerRepeat: 32, ...material!.add } as CrateMaterial];
  crate.files = [...files].map(([path, bytes]) => ({ path, bytes: bytes.length, sha256: sha256Hex(bytes) }));
  world.base = { ...world.base, assets: { 'models/stock.glb': { ...model.record!, source: 'stock.obj' } } };
  const map = structuredClone(crate.maps.hall);
  map.solids.s1.faces.forEach((face) => (face.material = 'lime'));
  const place = (id: string, classId: string, position: Vec3, properties: Record<string, string | number>, turn = 0) => {
    const object = newObject(profile, classId, id, position);
    map.objects[id] = { ...object, turn, properties: { ...object.properties, ...properties } };
  };
  place('prop_1', 'prop', [40, 40, 0], { model: model.path });
  place('prop_2', 'prop', [-40, 40, 0], { model: model.path }, 90);
  place('prop_3', 'prop', [0, 60, 0], { model: 'models/stock.glb' });
  place('spot_1', 'spot', [0, 0, 60], { cone: 60, soft: 0.5, intensity: 12, reach: 320, tilt: -90 });
  crate.maps.hall = map;
  return { world, files };
}

/** Each is built once; no test changes it. */
const known = new Map<string, ReturnType<typeof buildOnce>>();
function built(embed: 'own' | 'none') {
  if (!known.has(embed)) known.set(embed, buildOnce(embed));
  return known.get(embed)!;
}

async function buildOnce(embed: 'own' | 'none'): Promise<{ document: Document; glb: Uint8Array; world: CrateWorld }> {
  const { world, files } = await furnished();
  const readFile = (path: string) => (files.has(path) ? Promise.resolve(files.get(path)!) : Promise.reject(new Error(`${path} was asked for`)));
  const { artefacts, findings } = await buildMap(world, 'hall', { quality: 'draft', parameters: { ...QUICK_LIGHT, embed }, readFile, anyway: true });
  expect(findings.filter((f) => f.stage === 'build' && f.severity === 'blocker')).toEqual([]);
  const glb = artefacts!.get('maps/hall/map.glb')!;
  const document = await new WebIO().registerExtensions([KHRLightsPunctual, KHRTextureBasisu]).readBinary(glb);
  return { document, glb, world };
}

const nodeOf = (document: Document, object: string): Node =>
  document
    .getRoot()
    .listNodes()
    .find((node) => node.getExtras().object === object)!;
const materialOf = (document: Document, name: string) =>
  document
    .getRoot()
    .listMaterials()
    .find((material) => material.getName() === name)!;

describe('the packed map', () => {
  it('holds the crate’s own pictures as KTX2 and its models once for all copies; stock ones are named only', async () => {
    const { document, glb } = await built('own');
    expect(await glbErrors(glb)).toEqual([]);
    const lime = materialOf(document, 'lime');
    expect(lime.getBaseColorTexture()!.getMimeType()).toBe('image/ktx2');
    expect(lime.getBaseColorFactor().slice(0, 3)).toEqual([1, 1, 1]);
    // The lightmap stays the first image, where its materials look for it.
    expect(document.getRoot().listTextures()[0].getMimeType()).toBe('image/png');
    const [first, second, stock] = ['prop_1', 'prop_2', 'prop_3'].map((id) => nodeOf(document, id));
    const meshOf = (node: Node) => node.listChildren()[0].getMesh();
    expect(meshOf(first)).not.toBeNull();
    expect(meshOf(second)).toBe(meshOf(first));
    expect(stock.listChildren()).toEqual([]);
    expect(stock.getExtras().model).toBe('models/stock.glb');
  });

  it('stands models where the map has them, turned about the upright axis', async () => {
    const { document, world } = await built('own');
    const { metres } = world.profile.unit;
    const node = nodeOf(document, 'prop_2');
    expect(node.getTranslation().map((v) => Math.round(v / metres))).toEqual([-40, 0, -40]);
    // East turned by 90° to the left looks north, which is -z in glTF.
    const east = new Vector3(1, 0, 0).applyQuaternion(new Quaternion(...node.getRotation()));
    expect([east.x, east.y, east.z].map((v) => Math.round(v * 1e6) / 1e6 + 0)).toEqual([0, 0, -1]);
  });

  it('has lit lamps by KHR_lights_punctual: candela, metres, and cones as the standard asks', async () => {
    const { document, world } = await built('none');
    const light = nodeOf(document, 'spot_1').getExtension<Light>('KHR_lights_punctual')!;
    expect(light.getType()).toBe('spot');
    expect(light.getIntensity()).toBe(12);
    expect(light.getRange()).toBeCloseTo(320 * world.profile.unit.metres, 9);
    expect(light.getOuterConeAngle()).toBeCloseTo(Math.PI / 6, 6);
    expect(light.getInnerConeAngle()).toBeLessThan(light.getOuterConeAngle());
    const down = new Vector3(0, 0, -1).applyQuaternion(new Quaternion(...nodeOf(document, 'spot_1').getRotation()));
    expect(down.y).toBeCloseTo(-1, 6);
    const unlit = Object.entries(world.crate.maps.hall.objects).filter(([, o]) => o.properties.lit === false);
    for (const [id] of unlit) expect(nodeOf(document, id)).toBeUndefined();
  });

  it('without pictures and models asks for no file, and names all models', async () => {
    const { document } = await built('none');
    expect(document.getRoot().listTextures()).toHaveLength(1);
    expect(nodeOf(document, 'prop_1').listChildren()).toEqual([]);
    expect(materialOf(document, 'lime').getExtras().colour).toHaveLength(3);
  });

  it('says which model is damaged and what to do, instead of packing a part of it', async () => {
    const { world, files } = await furnished();
    const readFile = (path: string) => Promise.resolve(path.endsWith('.glb') ? bytesOf('no model') : files.get(path)!);
    const order = { quality: 'draft', parameters: { ...QUICK_LIGHT, embed: 'own' }, readFile, anyway: true } as const;
    const failure = await buildMap(world, 'hall', order).catch((error: unknown) => error);
    expect(failure).toBeInstanceOf(UnreadableInput);
    expect((failure as UnreadableInput).message).toContain('models/cube.glb');
  });

  // Outside reference: three's quaternions.
  it('turns lamps so that they shine along any direction', () => {
    const part = fc.integer({ min: -20, max: 20 });
    fc.assert(
      fc.property(fc.tuple(part, part, part), (d) => {
        fc.pre(Math.hypot(...d) > 0);
        const direction = normalise(d as Vec3);
        const shone = new Vector3(0, 0, -1).applyQuaternion(new Quaternion(...facing(direction)));
        expect(shone.distanceTo(new Vector3(...direction))).toBeLessThan(1e-6);
      }),
    );
  });
});

describe('decals in the GLB', () => {
  it('are valid, cut to their surface, lit as it is, and of one draw where they may be', async () => {
    const world = testWorld();
    const map = structuredClone(world.crate.maps.hall);
    world.crate.manifest.materials = ['stain', 'crack'].map((name) => ({ name, type: 'decal', colour: '#604020', unitsPerRepeat: 64 }));
    const style = (material: string) => ({ ...plainStyle(material, [32, 16]), normal: [0, 0, 1] as Vec3, tint: '#8040ff' });
    const [x, y] = Object.values(map.objects).find((object) => object.class === 'start')!.position;
    for (let n = 1; n <= 5; n++) map.decals[`d${n}`] = { name: `stain_${n}`, ...style('stain'), position: [x + n * 4, y, 0] };
    map.decals.d6 = { name: 'crack', ...style('crack'), order: 1, position: [x, y, 0] };
    map.decals.d7 = { name: 'far', ...style('crack'), position: [x + 100, y + 100, 900] };
    world.crate.maps.hall = map;
    const { artefacts } = await buildMap(world, 'hall', { quality: 'draft', parameters: QUICK_LIGHT, anyway: true });
    const glb = artefacts!.get('maps/hall/map.glb')!;
    expect(await glbErrors(glb)).toEqual([]);
    const document = await new WebIO().registerExtensions([KHRLightsPunctual, KHRTextureBasisu]).readBinary(glb);
    const drawn = document
      .getRoot()
      .listMeshes()
      .flatMap((mesh) => mesh.listPrimitives())
      .filter((primitive) => primitive.getAttribute('COLOR_0'));
    // Five stains over each other in one go, then the crack over them; the one in the air is not there.
    expect(drawn.map((primitive) => [primitive.getMaterial()!.getName(), primitive.getMaterial()!.getExtras().decal])).toEqual([
      ['stain', 0],
      ['crack', 1],
    ]);
    const [stains] = drawn;
    expect(stains.getIndices()!.getCount()).toBe(5 * 6);
    expect(stains.getMaterial()!.getAlphaMode()).toBe('BLEND');
    const colour = stains.getAttribute('COLOR_0')!.getElement(0, []);
    linearOfHex('#8040ff').forEach((v, k) => expect(colour[k]).toBeCloseTo(v, 6));
    expect(colour[3]).toBe(1);
    // Lifted one step for each that it lies over, and lit at the very place of the floor.
    const heights = new Set(Array.from({ length: 20 }, (_, i) => Math.round(stains.getAttribute('POSITION')!.getElement(i, [])[1] * 512)));
    expect([...heights].sort()).toEqual([1, 2, 3, 4, 5]);
    const lights = [0, 4].map((i) => stains.getAttribute('TEXCOORD_1')!.getElement(i, []));
    const places = [0, 4].map((i) => stains.getAttribute('POSITION')!.getElement(i, []));
    expect(lights[0]).not.toEqual(lights[1]);
    expect(places[0][0]).not.toBe(places[1][0]);
  });
});
