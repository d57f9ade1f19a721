/** What the picture of a map is drawn from: seen from above, with the places that the game's players look for. */

import { findFile, findMaterial, type CrateWorld } from '../crate/world.ts';
import type { GameMap, MapObject, MapPath, Route } from '../document/schema.ts';
import { objectBox } from '../map/objectBox.ts';
import { collidersOf } from '../map/member/members.ts';
import { hasPart } from '../profile/parts.ts';
import { valueOf } from '../profile/valueOf.ts';
import { shapeOf, type Point2 } from '../solid/shape.ts';
import { isSymbol } from './symbols.ts';

export interface Footprint {
  /** Convex, counter-clockwise, map space. */
  outline: Point2[];
  top: number;
  colour: string;
}

export interface OverviewPlace {
  name: string;
  label: string;
  at: Point2;
  /** Where the user has put the middle of its label, from the place. */
  labelAt?: Point2;
  /** Path of a texture, or a symbol; empty where it has none. */
  icon: string;
  /** Of the texture's file, so that another picture makes the drawing another one. */
  sha256: string;
}

export interface OverviewInputs {
  name: string;
  terrains: GameMap['terrains'];
  tiles: GameMap['tiles'];
  /** Mean colours of the ground's materials. */
  colours: Record<string, string>;
  solids: Record<string, Footprint>;
  water: Record<string, Footprint>;
  roads: Record<string, MapPath>;
  routes: Record<string, Route>;
  /** Where stops of routes lie, by the ids of their objects. */
  stops: Record<string, { at: Point2 }>;
  places: Record<string, OverviewPlace>;
  unit: { plural: string; metres: number };
  /** Longer sides of the pictures that the game wants, pixels; none where its players have no map. */
  sides: readonly number[];
  /** Sides of the pictures of symbols. */
  icons: readonly number[];
}

/** A colour that shows at once that a material is missing. */
const LOST = '#ff6a5a';
const WATER = '#4f86b8';

/** @param world one whose prefabs are laid out */
export function overviewInputs(world: CrateWorld, mapName: string): OverviewInputs {
  const { profile } = world;
  const map = world.crate.maps[mapName];
  const colourOf = (material: string): string => findMaterial(world, material)?.material.colour ?? LOST;
  const objects = Object.entries(map.objects);
  const only = <T>(pick: (id: string, object: MapObject) => T | null): Record<string, T> =>
    Object.fromEntries(
      objects.flatMap(([id, object]) => {
        const value = pick(id, object);
        return value === null ? [] : [[id, value]];
      }),
    );
  const stops = new Set(
    Object.values(map.routes).flatMap(({ start, stops: ids, finish, branches }) => [start, ...ids, finish, ...branches.flatMap((b) => b.stops)]),
  );
  return {
    name: mapName,
    terrains: map.terrains,
    tiles: map.tiles,
    colours: Object.fromEntries(
      Object.values(map.terrains).flatMap(({ surfaces }) => surfaces.map(({ material }) => [material, colourOf(material)])),
    ),
    solids: Object.fromEntries(
      collidersOf(map).flatMap(({ id, solid }): [string, Footprint][] => {
        const { outline, box, polygons } = shapeOf(solid);
        // What looks up is seen from above; of several faces the most level one gives the colour.
        const roof = polygons.map(({ face }) => solid.faces[face]).sort((a, b) => b.normal[2] - a.normal[2])[0];
        return outline.length < 3 ? [] : [[id, { outline, top: box.max[2], colour: colourOf(roof.material) }]];
      }),
    ),
    water: only((_, object) => {
      if (!hasPart(profile, object.class, 'water')) return null;
      const { min, max } = objectBox(world, object);
      return {
        outline: object.shape
          ? shapeOf(object.shape).outline
          : [
              [min[0], min[1]],
              [max[0], min[1]],
              [max[0], max[1]],
              [min[0], max[1]],
            ],
        top: max[2],
        colour: WATER,
      };
    }),
    roads: Object.fromEntries(Object.entries(map.paths).filter(([, { road }]) => road !== undefined)),
    routes: map.routes,
    stops: only((id, { position }) => (stops.has(id) ? { at: [position[0], position[1]] } : null)),
    places: only((_, object) => {
      if (!hasPart(profile, object.class, 'zone')) return null;
      const icon = String(valueOf(profile, object, 'icon') ?? '');
      const label = String(valueOf(profile, object, 'label') ?? '');
      if (icon === '' && label === '') return null;
      const { position, name, labelAt } = object;
      const sha256 = icon === '' || isSymbol(icon) ? '' : (findFile(world, icon)?.sha256 ?? '');
      const at: Point2 = [position[0], position[1]];
      return { name, label, at, ...(labelAt ? { labelAt } : {}), icon, sha256 };
    }),
    unit: { plural: profile.unit.plural, metres: profile.unit.metres },
    sides: profile.mapPicture?.sides ?? [],
    icons: profile.mapIcons ?? [],
  };
}
