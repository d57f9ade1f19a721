/** OBJ reading against three's OBJLoader on a generated sphere of quads with normals and texture coordinates. */
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import { readObj } from '@violet-crate/core/asset/mesh/read/readObj';
import { triangleCount } from '@violet-crate/core/asset/mesh/model/model';
import { compare } from './measure.mjs';
import { sphereObj } from './sphere.mjs';

export async function objImport(rounds) {
  const text = sphereObj(240, 240);
  const bytes = new TextEncoder().encode(text);
  const loader = new OBJLoader();
  let ours = 0;
  let theirs = 0;
  const row = await compare(
    `OBJ import, ${(text.length / 1048576).toFixed(1)} MiB (reference: three's OBJLoader, which does not index vertices)`,
    rounds,
    () => {
      ours = triangleCount(readObj(bytes, 'sphere.obj'));
    },
    () => {
      theirs = loader.parse(text).children[0].geometry.getAttribute('position').count / 3;
    },
  );
  console.log(`  triangles: ours ${ours}, reference ${theirs}`);
  return row;
}
