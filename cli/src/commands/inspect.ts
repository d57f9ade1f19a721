import { existsSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { WebIO } from '@gltf-transform/core';
import { read } from 'ktx-parse';
import { KHRLightsPunctual, KHRTextureBasisu } from '@gltf-transform/extensions';
import { areasOf } from '@violet-crate/core/stages/navigation/navmesh';
import { decodeCollision } from '@violet-crate/core/stages/pack/collisionBin';
import { decodeNavigation } from '@violet-crate/core/stages/pack/navBin';
import { decodeProbes } from '@violet-crate/core/stages/pack/probesBin';
import { decodeVisibilityFile } from '@violet-crate/core/stages/pack/visibilityBin';
import type { RuntimeMap } from '@violet-crate/core/stages/pack/runtime';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { sha256Hex } from '@violet-crate/core/hash';
import { own } from '@violet-crate/core/own';
import type { Command } from '../command.ts';
import { readInput } from '../readInput.ts';

type Counts = Record<string, number | string>;

/** What every kind of file of a built map holds, in numbers. */
const READERS: Record<string, (bytes: Uint8Array) => Counts | Promise<Counts>> = {
  'map.glb': async (bytes) => {
    const root = (await new WebIO().registerExtensions([KHRLightsPunctual, KHRTextureBasisu]).readBinary(bytes)).getRoot();
    const primitives = root.listMeshes().flatMap((mesh) => mesh.listPrimitives());
    const pictures = root.listTextures();
    const lightmap = pictures.find((texture) => texture.getMimeType() === 'image/png')?.getSize();
    const models = root.listNodes().filter((node) => node.getExtras().model !== undefined);
    return {
      meshes: root.listMeshes().length,
      primitives: primitives.length,
      materials: root.listMaterials().length,
      triangles: primitives.reduce((sum, p) => sum + (p.getIndices()?.getCount() ?? 0) / 3, 0),
      textures: pictures.filter((texture) => texture.getMimeType() === 'image/ktx2').length,
      lights: root.listNodes().filter((node) => node.getExtension('KHR_lights_punctual')).length,
      models: models.length,
      embedded: models.filter((node) => node.listChildren().length > 0).length,
      lightmap: lightmap ? lightmap.join(' × ') : 'none',
    };
  },
  'lightmap.ktx2': (bytes) => {
    const { pixelWidth, pixelHeight } = read(bytes);
    return { luxels: `${pixelWidth} × ${pixelHeight}` };
  },
  'map.json': (bytes) => {
    const map = JSON.parse(new TextDecoder().decode(bytes)) as RuntimeMap;
    const count = (record: object) => Object.keys(record).length;
    return {
      objects: count(map.objects),
      signals: count(map.signals),
      paths: count(map.paths),
      scripts: map.scripts.length,
      models: count(map.models),
    };
  },
  'collision.bin': (bytes) => {
    const { solids } = decodeCollision(bytes);
    return { solids: solids.length, planes: solids.reduce((sum, solid) => sum + solid.planes.length, 0) };
  },
  'visibility.bin': (bytes) => {
    const { planes, sectorOfLeaf, sectors, groups } = decodeVisibilityFile(bytes);
    return { nodes: planes.length / 4, leaves: sectorOfLeaf.length, sectors, groups: groups.length };
  },
  'nav.bin': (bytes) => {
    const { polygons, links } = decodeNavigation(bytes);
    return { polygons: polygons.length, areas: new Set(areasOf(polygons)).size, jumps: links.length };
  },
  'probes.bin': (bytes) => {
    const { counts, spacing, free } = decodeProbes(bytes);
    return { grid: counts.join(' × '), spacing, probes: free.filter(Boolean).length };
  },
};

export const inspectCommand: Command = {
  summary: 'Say what the built maps of a crate contain.',
  usage: 'crate inspect DIR',
  options: {},
  arguments: [1, 1],
  async run([dir]) {
    const folder = join(dir, 'build', 'maps');
    if (!existsSync(folder)) throw new UnreadableInput('not-built', `There is no built map in ${folder}. Run "crate build ${dir}" first.`);
    const maps = await Promise.all(
      readdirSync(folder)
        .filter((map) => statSync(join(folder, map)).isDirectory())
        .sort()
        .map(async (map) => {
          const files = await Promise.all(
            readdirSync(join(folder, map))
              .sort()
              .map(async (name) => {
                const bytes = readInput(join(folder, map, name));
                try {
                  return { name, bytes: bytes.length, sha256: sha256Hex(bytes), holds: (await own(READERS, name)?.(bytes)) ?? {} };
                } catch {
                  throw new UnreadableInput('damaged-build', `${join(folder, map, name)} is damaged. Build again.`);
                }
              }),
          );
          return { map, files };
        }),
    );
    const line = ({ name, bytes, holds }: (typeof maps)[number]['files'][number]) =>
      `  ${name.padEnd(16)}${String(bytes).padStart(10)} bytes  ${Object.entries(holds)
        .map(([what, n]) => `${what} ${n}`)
        .join(', ')}`;
    return { code: 0, result: { maps }, text: maps.map(({ map, files }) => [map, ...files.map(line)].join('\n')).join('\n') };
  },
};
