/** Writes a converted model as Wavefront OBJ with an MTL beside it: metres, y up, one group per part. */

import { linearToSrgb } from '../../../math/srgb.ts';
import type { Model } from '../model/model.ts';

export function writeObj(model: Model, name: string): { obj: string; mtl: string } {
  const lines = [`mtllib ${name}.mtl`];
  let [v, t, n] = [1, 1, 1];
  const tidy = (value: number) => String(Math.round(value * 1e6) / 1e6 + 0);
  for (const part of model.parts) {
    lines.push(`o ${part.name}`, `usemtl ${part.material || 'unnamed'}`);
    const count = part.positions.length / 3;
    for (let i = 0; i < count; i++) lines.push(`v ${[0, 1, 2].map((k) => tidy(part.positions[i * 3 + k])).join(' ')}`);
    if (part.uvs) for (let i = 0; i < count; i++) lines.push(`vt ${tidy(part.uvs[i * 2])} ${tidy(1 - part.uvs[i * 2 + 1])}`);
    if (part.normals) for (let i = 0; i < count; i++) lines.push(`vn ${[0, 1, 2].map((k) => tidy(part.normals![i * 3 + k])).join(' ')}`);
    const corner = (i: number) => `${v + i}${part.uvs || part.normals ? `/${part.uvs ? t + i : ''}` : ''}${part.normals ? `/${n + i}` : ''}`;
    for (let i = 0; i < part.indices.length; i += 3) lines.push(`f ${[0, 1, 2].map((k) => corner(part.indices[i + k])).join(' ')}`);
    v += count;
    if (part.uvs) t += count;
    if (part.normals) n += count;
  }
  const mtl = Object.entries(model.materials).flatMap(([slot, { colour }]) => [
    `newmtl ${slot || 'unnamed'}`,
    `Kd ${[0, 1, 2].map((k) => tidy(linearToSrgb(colour[k]))).join(' ')}`,
    `d ${tidy(colour[3])}`,
  ]);
  return { obj: `${lines.join('\n')}\n`, mtl: `${mtl.join('\n')}\n` };
}
