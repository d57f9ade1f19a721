import { basename } from 'node:path';
import { writeGlb } from '@violet-crate/core/asset/mesh/write/writeGlb';
import { triangleCount } from '@violet-crate/core/asset/mesh/model/model';
import { writeObj } from '@violet-crate/core/asset/mesh/write/writeObj';
import { mapModel } from '@violet-crate/core/stages/exportMap';
import { UsageError, type Command } from '../command.ts';
import { needMaps, openCrate } from '../folder.ts';
import { own } from '@violet-crate/core/own';
import { needFree, writeOutput } from '../output.ts';

export const exportCommand: Command = {
  summary: 'Write a map’s faces and ground as GLB or OBJ for another program.',
  usage: 'crate export DIR --to FILE.glb|FILE.obj [--map NAME] [--only ground] [--error N]',
  options: {
    to: { value: 'FILE', summary: 'where it goes; the ending says what it is', required: true },
    map: { value: 'NAME', summary: 'which map (the main one)' },
    only: { value: 'WHAT', summary: 'ground: without solids (all)' },
    error: { value: 'N', summary: 'how far the ground may be from its samples, in units of the game' },
    game: { value: 'DIR', summary: 'the game’s install' },
  },
  arguments: [1, 1],
  async run([dir], options) {
    const { world } = openCrate(dir, options.game);
    needMaps(world, options.map === undefined);
    const name = options.map ?? world.crate.manifest.mainMap;
    if (!own(world.crate.maps, name)) throw new UsageError(`The crate has no map ${name}. Maps: ${Object.keys(world.crate.maps).join(', ')}.`);
    const error = options.error === undefined ? undefined : Number(options.error);
    if (error !== undefined && !(error >= 0)) throw new UsageError(`--error has to be a number from 0 on, not "${options.error}".`);
    if (options.only !== undefined && options.only !== 'ground' && options.only !== 'all') throw new UsageError('--only has to be ground or all.');
    if (options.only === 'ground' && Object.keys(world.crate.maps[name].terrains).length === 0)
      throw new UsageError(`The map ${name} has no ground.`);
    const model = mapModel(world, name, options.only ?? 'all', error);
    const to = options.to!;
    const files = [to];
    if (to.endsWith('.glb')) writeOutput(to, await writeGlb({ model, lods: [], collision: null, slots: [] }), [], options);
    else if (to.endsWith('.obj')) {
      const stem = basename(to, '.obj');
      const { obj, mtl } = writeObj(model, stem);
      files.push(to.replace(/obj$/, 'mtl'));
      for (const file of files) needFree(file, [], options);
      writeOutput(to, new TextEncoder().encode(obj), [], options);
      writeOutput(files[1], new TextEncoder().encode(mtl), [], options);
    } else throw new UsageError('--to has to end in .glb or .obj.');
    const triangles = triangleCount(model);
    return {
      code: 0,
      result: { map: name, files, triangles, materials: model.parts.map((p) => p.material) },
      text: `${name}: ${triangles} triangles into ${files.join(', ')}`,
    };
  },
};
