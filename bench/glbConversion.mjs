/** A GLB of half a million triangles through the default conversion against @gltf-transform's weld, normals and prune. */
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { Logger, WebIO } from '@gltf-transform/core';
import { normals, prune, weld } from '@gltf-transform/functions';
import { convertModel } from '@violet-crate/core/asset/mesh/convert';
import { loadProfile } from '@violet-crate/core/profile/load';
import { compare } from './measure.mjs';
import { sphereObj } from './sphere.mjs';

export async function glbConversion(rounds) {
  const profile = loadProfile(
    readFileSync(fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/brinewick.json')), 'utf8'),
    'brinewick.json',
  );
  const bare = sphereObj(502, 500)
    .replaceAll(/^v[tn].*\n/gm, '')
    .replaceAll(/(\d+)\/\d+\/\d+/g, '$1');
  const source = await convertModel(
    profile,
    { file: 'sphere.obj', bytes: new TextEncoder().encode(bare) },
    { unit: 'm', normals: 'flat', collision: 'none', weld: -1 },
  );
  const io = new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT));
  const document = await io.readBinary(source.glb);
  // Without normals both have to make them.
  for (const primitive of document.getRoot().listMeshes()[0].listPrimitives()) primitive.setAttribute('NORMAL', null);
  const glb = await io.writeBinary(document);
  let triangles = 0;
  await compare(
    'GLB, full default conversion with checks, hull and picture (reference: @gltf-transform weld, normals, prune)',
    rounds,
    async () => {
      ({ triangles } = await convertModel(profile, { file: 'sphere.glb', bytes: glb }));
    },
    async () => {
      const theirs = (await io.readBinary(glb)).setLogger(new Logger(Logger.Verbosity.SILENT));
      await theirs.transform(weld(), normals(), prune());
      await io.writeBinary(theirs);
    },
  );
  console.log(`  triangles: ${triangles}`);
}
