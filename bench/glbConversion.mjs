/**
 * A GLB of half a million triangles without normals: the same steps as @gltf-transform's weld, normals and prune, which are
 * what both do; then what each further step of the default conversion costs, as shares of the reference's time.
 */
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { Logger, WebIO } from '@gltf-transform/core';
import { normals, prune, weld } from '@gltf-transform/functions';
import { checkSurface, noteTaker } from '@violet-crate/core/asset/mesh/check/check';
import { convertModel } from '@violet-crate/core/asset/mesh/convert';
import { collisionShape } from '@violet-crate/core/asset/mesh/geometry/collision';
import { computeNormals } from '@violet-crate/core/asset/mesh/geometry/normals';
import { soupOf, surfaceOf } from '@violet-crate/core/asset/mesh/geometry/surface';
import { uselessTriangles } from '@violet-crate/core/asset/mesh/geometry/tidy';
import { dropUnused, weld as ownWeld } from '@violet-crate/core/asset/mesh/geometry/weld';
import { defaultModelOptions } from '@violet-crate/core/asset/mesh/model/options';
import { pictureOfModel } from '@violet-crate/core/asset/mesh/picture';
import { readModel } from '@violet-crate/core/asset/mesh/read/readModel';
import { writeGlb } from '@violet-crate/core/asset/mesh/write/writeGlb';
import { loadProfile } from '@violet-crate/core/profile/load';
import { compare, timed } from './measure.mjs';
import { sphereObj } from './sphere.mjs';

const profile = loadProfile(readFileSync(fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/brinewick.json')), 'utf8'), 'brinewick.json');

export async function glbConversion(rounds) {
  const glb = await bareSphere();
  const options = defaultModelOptions(profile);
  const io = new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT));
  const theirs = async () => {
    const document = (await io.readBinary(glb)).setLogger(new Logger(Logger.Verbosity.SILENT));
    await document.transform(weld(), normals(), prune());
    await io.writeBinary(document);
  };
  const finished = async () => {
    const model = await readModel(glb, 'sphere.glb');
    return { ...model, parts: model.parts.map((part) => dropUnused(ownWeld(computeNormals(part, options.smoothAngle), 0))) };
  };
  const same = await compare(
    'GLB, the same steps (reference: @gltf-transform weld, normals, prune)',
    rounds,
    async () => writeGlb({ model: await finished(), lods: [], collision: null, slots: [] }),
    theirs,
  );

  const model = await finished();
  const surface = surfaceOf(model.parts, model.rig);
  const collision = await collisionShape(surface, options);
  const extras = {
    'useless triangles': () => uselessTriangles(soupOf(model.parts, model.rig)),
    'how it hangs together': () => surfaceOf(model.parts, model.rig),
    'convex hull': () => collisionShape(surface, options),
    'checks of the surface': () => checkSurface(model, surface, options, 'sphere.glb', noteTaker('sphere.glb', options).note),
    picture: () => pictureOfModel(model, surface, new Map()),
    'writing the hull': () => writeGlb({ model: { ...model, parts: [] }, lods: [], collision, slots: [] }),
  };
  for (const [name, work] of Object.entries(extras)) {
    const times = [];
    for (let i = 0; i < rounds; i++) times.push(await timed(work));
    times.sort((a, b) => a - b);
    console.log(`  ${name}: ${(times[times.length >> 1] / same.reference).toFixed(2)} of the reference's time`);
  }

  let triangles = 0;
  await compare(
    'GLB, full default conversion',
    rounds,
    async () => {
      ({ triangles } = await convertModel(profile, { file: 'sphere.glb', bytes: glb }));
    },
    theirs,
  );
  console.log(`  triangles: ${triangles}`);
}

/** Without normals both have to make them. */
async function bareSphere() {
  const bare = sphereObj(502, 500)
    .replaceAll(/^v[tn].*\n/gm, '')
    .replaceAll(/(\d+)\/\d+\/\d+/g, '$1');
  const given = { unit: 'm', normals: 'flat', collision: 'none', weld: -1 };
  const source = await convertModel(profile, { file: 'sphere.obj', bytes: new TextEncoder().encode(bare) }, given);
  const io = new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT));
  const document = await io.readBinary(source.glb);
  for (const primitive of document.getRoot().listMeshes()[0].listPrimitives()) primitive.setAttribute('NORMAL', null);
  return io.writeBinary(document);
}
