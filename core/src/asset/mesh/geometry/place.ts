/**
 * Brings a model into the space of glTF (metres, y up, right-handed) and onto its pivot. A rigid model's
 * vertices are moved; a rigged one gets a root node that carries the turn, so that its clips stay valid.
 */

import { Matrix3, Matrix4, Quaternion, Vector3 } from 'three';
import type { Vec3 } from '../../../math/vec3.ts';
import type { Model, ModelPart, Rig } from '../model/model.ts';
import { unitNormals } from './normals.ts';

/**
 * The turn from file space: (x, y, z) with z up becomes (x, z, -y), a rotation, never a mirror. Left-handed
 * sources are mirrored along the axis that points away from the viewer, once and on purpose.
 */
export function sourceMatrix(metres: number, upAxis: 'y' | 'z', leftHanded: boolean): Matrix4 {
  const turn = upAxis === 'z' ? new Matrix4().set(1, 0, 0, 0, 0, 0, 1, 0, 0, -1, 0, 0, 0, 0, 0, 1) : new Matrix4();
  const mirror = new Matrix4().makeScale(1, 1, leftHanded ? -1 : 1);
  return new Matrix4().makeScale(metres, metres, metres).multiply(mirror).multiply(turn);
}

/** The model with `matrix` applied to all of it. */
export function transformModel(model: Model, matrix: Matrix4): Model {
  if (model.rig) return { ...model, rig: withRoot(model.rig, matrix), parts: model.parts.map((part) => ({ ...part, node: part.node! + 1 })) };
  return { ...model, parts: model.parts.map((part) => transformPart(part, matrix)) };
}

function transformPart(part: ModelPart, matrix: Matrix4): ModelPart {
  const e = matrix.elements;
  const positions = new Float32Array(part.positions.length);
  const p = part.positions;
  for (let i = 0; i < p.length; i += 3) {
    const x = p[i];
    const y = p[i + 1];
    const z = p[i + 2];
    positions[i] = e[0] * x + e[4] * y + e[8] * z + e[12];
    positions[i + 1] = e[1] * x + e[5] * y + e[9] * z + e[13];
    positions[i + 2] = e[2] * x + e[6] * y + e[10] * z + e[14];
  }
  const mirrored = matrix.determinant() < 0;
  const indices = mirrored ? part.indices.slice() : part.indices;
  if (mirrored) for (let i = 0; i < indices.length; i += 3) [indices[i + 1], indices[i + 2]] = [indices[i + 2], indices[i + 1]];
  const linear = new Matrix3().getNormalMatrix(matrix).elements;
  const turn = (source: Float32Array, width: 3 | 4) => {
    const out = source.slice();
    for (let i = 0; i < out.length; i += width) {
      const [x, y, z] = [source[i], source[i + 1], source[i + 2]];
      for (let k = 0; k < 3; k++) out[i + k] = linear[k] * x + linear[3 + k] * y + linear[6 + k] * z;
      const size = Math.hypot(out[i], out[i + 1], out[i + 2]) || 1;
      for (let k = 0; k < 3; k++) out[i + k] /= size;
      if (width === 4 && mirrored) out[i + 3] = -out[i + 3];
    }
    return out;
  };
  return {
    ...part,
    positions,
    indices,
    normals: part.normals && unitNormals(turn(part.normals, 3)),
    tangents: part.tangents && turn(part.tangents, 4),
  };
}

/** The rig under one more node, which stands first and carries `matrix`. */
function withRoot(rig: Rig, matrix: Matrix4): Rig {
  const [translation, rotation, scale] = [new Vector3(), new Quaternion(), new Vector3()];
  matrix.decompose(translation, rotation, scale);
  return {
    nodes: [
      {
        name: 'model',
        parent: -1,
        translation: translation.toArray(),
        rotation: rotation.toArray() as [number, number, number, number],
        scale: scale.toArray(),
      },
      ...rig.nodes.map((node) => ({ ...node, parent: node.parent + 1 })),
    ],
    skins: rig.skins.map((skin) => ({ ...skin, joints: skin.joints.map((joint) => joint + 1) })),
    clips: rig.clips.map((clip) => ({ ...clip, channels: clip.channels.map((channel) => ({ ...channel, node: channel.node + 1 })) })),
  };
}

/** Moves a placed model by `shift` (metres, y up). */
export function shiftModel(model: Model, shift: Vec3): Model {
  if (shift.every((v) => v === 0)) return model;
  if (model.rig) {
    const [root, ...others] = model.rig.nodes;
    const moved = { ...root, translation: [0, 1, 2].map((k) => root.translation[k] + shift[k]) as Vec3 };
    return { ...model, rig: { ...model.rig, nodes: [moved, ...others] } };
  }
  for (const part of model.parts) for (let i = 0; i < part.positions.length; i++) part.positions[i] += shift[i % 3];
  return model;
}
