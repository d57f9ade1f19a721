/** OBJ reading against three's OBJLoader on a generated sphere of quads with normals and texture coordinates. */
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import { readObj } from '@violet-crate/core/asset/mesh/readObj';
import { triangleCount } from '@violet-crate/core/asset/mesh/model';
import { compare } from './measure.mjs';

function sphere(rings, sides) {
  const lines = ['o sphere'];
  for (let i = 0; i <= rings; i++) {
    for (let j = 0; j <= sides; j++) {
      const [a, b] = [(i / rings) * Math.PI, (j / sides) * 2 * Math.PI];
      const p = [Math.sin(a) * Math.cos(b), Math.sin(a) * Math.sin(b), Math.cos(a)].map((v) => v.toFixed(6)).join(' ');
      lines.push(`v ${p}`, `vt ${(j / sides).toFixed(5)} ${(i / rings).toFixed(5)}`, `vn ${p}`);
    }
  }
  const at = (i, j) => i * (sides + 1) + j + 1;
  for (let i = 1; i < rings - 1; i++) {
    for (let j = 0; j < sides; j++)
      lines.push(`f ${[at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)].map((k) => `${k}/${k}/${k}`).join(' ')}`);
  }
  return lines.join('\n');
}

export async function objImport(rounds) {
  const text = sphere(240, 240);
  const loader = new OBJLoader();
  let ours = 0;
  let theirs = 0;
  const row = await compare(
    `OBJ import, ${(text.length / 1048576).toFixed(1)} MiB (reference: three's OBJLoader, which does not index vertices)`,
    rounds,
    () => {
      ours = triangleCount(readObj(text, 'sphere.obj'));
    },
    () => {
      theirs = loader.parse(text).children[0].geometry.getAttribute('position').count / 3;
    },
  );
  console.log(`  triangles: ours ${ours}, reference ${theirs}`);
  return row;
}
