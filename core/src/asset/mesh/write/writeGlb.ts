/**
 * Writes a GLB by glTF 2.0. The default scene holds the model; further scenes hold its levels of detail
 * (`lod1`, `lod2`, …, over the same vertices) and its collision bodies (`collision`), see docs/formats.md.
 * Pictures in KTX2 use KHR_texture_basisu.
 */

import { Document, WebIO, type Accessor, type Material, type Mesh, type Node } from '@gltf-transform/core';
import { KHRTextureBasisu } from '@gltf-transform/extensions';
import type { CollisionShape } from '../geometry/collision.ts';
import type { Lod } from '../geometry/lods.ts';
import { ATTRIBUTES, plainMaterial, type AttributeName, type Model, type ModelImage, type ModelPart } from '../model/model.ts';
import type { SlotChoice } from '../model/materialSlots.ts';
import { own } from '../../../own.ts';

const SEMANTICS: Record<AttributeName, string> = {
  positions: 'POSITION',
  normals: 'NORMAL',
  uvs: 'TEXCOORD_0',
  lightUvs: 'TEXCOORD_1',
  tangents: 'TANGENT',
  colours: 'COLOR_0',
  joints: 'JOINTS_0',
  weights: 'WEIGHTS_0',
};

export interface ModelOutput {
  model: Model;
  lods: Lod[];
  collision: CollisionShape | null;
  slots: SlotChoice[];
}

export async function writeGlb({ model, lods, collision, slots }: ModelOutput): Promise<Uint8Array> {
  const document = new Document();
  const root = document.getRoot();
  root.getAsset().generator = 'Violet Crate';
  const buffer = document.createBuffer();
  const materials = writeMaterials(document, model, slots);
  const accessor = (type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4' | 'MAT4', array: Float32Array | Uint16Array | Uint32Array) =>
    document
      .createAccessor()
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
  const attributes = model.parts.map((part) =>
    (Object.keys(ATTRIBUTES) as AttributeName[]).flatMap((name): [string, Accessor][] => {
      const array = part[name];
      return array ? [[SEMANTICS[name], accessor(`VEC${ATTRIBUTES[name] as 2 | 3 | 4}`, array)]] : [];
    }),
  );
  const addPrimitive = (mesh: Mesh, p: number, indices: Uint32Array) => {
    const primitive = document.createPrimitive().setMaterial(materials.get(model.parts[p].material)!);
    for (const [semantic, values] of attributes[p]) primitive.setAttribute(semantic, values);
    // 0xffff itself is kept free: it restarts strips on some devices.
    const narrow = model.parts[p].positions.length / 3 < 0xffff;
    mesh.addPrimitive(primitive.setIndices(accessor('SCALAR', narrow ? Uint16Array.from(indices) : indices)));
  };

  const scene = document.createScene('model');
  root.setDefaultScene(scene);
  if (model.rig) writeRig();
  else {
    const mesh = document.createMesh('model');
    model.parts.forEach((part, p) => addPrimitive(mesh, p, part.indices));
    scene.addChild(document.createNode('model').setMesh(mesh));
  }
  lods.forEach((lod, level) => {
    const mesh = document.createMesh(`lod${level + 1}`);
    lod.indices.forEach((indices, p) => addPrimitive(mesh, p, indices));
    const node = document.createNode(`lod${level + 1}`).setMesh(mesh);
    node.setExtras({ triangles: lod.triangles, error: lod.error, switchDistance: lod.switchDistance });
    document.createScene(`lod${level + 1}`).addChild(node);
  });
  if (collision) {
    const bodies = document.createScene('collision').setExtras({ shape: collision.kind, volume: collision.volume, mass: collision.mass });
    collision.bodies.forEach((body, i) => {
      const primitive = document
        .createPrimitive()
        .setAttribute('POSITION', accessor('VEC3', body.positions))
        .setIndices(accessor('SCALAR', body.indices));
      const mesh = document.createMesh(`body${i + 1}`).addPrimitive(primitive);
      bodies.addChild(document.createNode(`body${i + 1}`).setMesh(mesh));
    });
  }
  return new WebIO().registerExtensions([KHRTextureBasisu]).writeBinary(document);

  function writeRig(): void {
    const rig = model.rig!;
    const nodes: Node[] = rig.nodes.map((node) =>
      document.createNode(node.name).setTranslation(node.translation).setRotation(node.rotation).setScale(node.scale),
    );
    rig.nodes.forEach((node, i) => (node.parent < 0 ? scene.addChild(nodes[i]) : nodes[node.parent].addChild(nodes[i])));
    const skins = rig.skins.map((skin) => {
      const made = document.createSkin().setInverseBindMatrices(accessor('MAT4', skin.inverseBind));
      for (const joint of skin.joints) made.addJoint(nodes[joint]);
      return made;
    });
    const byNode = new Map<string, number[]>();
    model.parts.forEach((part, p) => {
      const key = `${part.node}/${part.skin ?? ''}`;
      byNode.set(key, [...(byNode.get(key) ?? []), p]);
    });
    for (const parts of byNode.values()) {
      const { node, skin } = model.parts[parts[0]];
      const mesh = document.createMesh(rig.nodes[node!].name);
      for (const p of parts) addPrimitive(mesh, p, model.parts[p].indices);
      // Bending meshes ignore their node's place, so they hang at the root where no one wonders about it.
      if (skin !== undefined) scene.addChild(document.createNode(`${rig.nodes[node!].name}_skin`).setMesh(mesh).setSkin(skins[skin]));
      else nodes[node!].setMesh(mesh);
    }
    for (const clip of rig.clips) {
      const animation = document.createAnimation(clip.name);
      for (const channel of clip.channels) {
        const sampler = document
          .createAnimationSampler()
          .setInput(accessor('SCALAR', channel.times))
          .setOutput(accessor(channel.path === 'rotation' ? 'VEC4' : 'VEC3', channel.values))
          .setInterpolation(channel.interpolation);
        animation
          .addSampler(sampler)
          .addChannel(document.createAnimationChannel().setTargetNode(nodes[channel.node]).setTargetPath(channel.path).setSampler(sampler));
      }
    }
  }
}

function writeMaterials(document: Document, model: Model, slots: readonly SlotChoice[]): Map<string, Material> {
  const textures = new Map<Uint8Array, ReturnType<Document['createTexture']>>();
  const textureOf = (image: ModelImage, name: string) => {
    let texture = textures.get(image.bytes);
    if (!texture) {
      if (image.mimeType === 'image/ktx2') document.createExtension(KHRTextureBasisu).setRequired(true);
      texture = document
        .createTexture(name)
        .setMimeType(image.mimeType)
        .setImage(image.bytes as Uint8Array<ArrayBuffer>);
      textures.set(image.bytes, texture);
    }
    return texture;
  };
  const names = [...new Set(model.parts.map((part: ModelPart) => part.material))];
  return new Map(
    names.map((name) => {
      const made = own(model.materials, name) ?? plainMaterial();
      const chosen = slots.find((slot) => slot.slot === name)?.material;
      const material = document
        .createMaterial(name || 'unnamed')
        .setBaseColorFactor(made.colour)
        .setMetallicFactor(made.metalness ?? 0)
        .setRoughnessFactor(made.roughness ?? 0.9)
        .setEmissiveFactor((made.emission ?? [0, 0, 0]).map((v) => Math.min(1, Math.max(0, v))) as [number, number, number])
        .setDoubleSided(made.doubleSided ?? false);
      if (made.cutout) material.setAlphaMode('MASK');
      else if (made.colour[3] < 1) material.setAlphaMode('BLEND');
      if (chosen) material.setExtras({ material: chosen });
      else {
        if (made.image) material.setBaseColorTexture(textureOf(made.image, name));
        if (made.normalImage) material.setNormalTexture(textureOf(made.normalImage, `${name}_normal`));
      }
      return [name, material] as const;
    }),
  );
}
