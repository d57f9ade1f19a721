/** Everything worth knowing about a model: its data, its surface, its size against the player, its budget. */

import type { Finding, Fix, Severity } from '../../../finding.ts';
import type { Place } from '../../../place.ts';
import { boxSize, type Box3 } from '../../../math/box3.ts';
import type { Profile } from '../../../profile/schema.ts';
import type { CollisionShape } from '../geometry/collision.ts';
import type { SlotChoice } from '../model/materialSlots.ts';
import { triangleCount, type Model } from '../model/model.ts';
import type { ModelOptions } from '../model/options.ts';
import type { Surface } from '../geometry/surface.ts';
import { checkSides, uselessTriangles } from '../geometry/tidy.ts';
import { collapsedUvs, lightmapOverlap, OVERLAP_SHOWS } from './uvCheck.ts';

/** Triangles that a finding names for highlighting, at most. */
const SHOWN = 2000;

type Note = (
  code: string,
  severity: Severity,
  message: string,
  more?: { hint?: string; change?: [string, Partial<ModelOptions>]; place?: Place },
) => void;

/** A collector of findings about one file, whose fixes convert it again with other settings. */
export function noteTaker(file: string, options: ModelOptions): { findings: Finding[]; note: Note } {
  const findings: Finding[] = [];
  return {
    findings,
    note(code, severity, message, { hint, change, place } = {}) {
      const fix: Fix | undefined = change && { kind: 'reconvert', label: change[0], file, options: { ...options, ...change[1] } };
      findings.push({ code, severity, stage: 'assets', message, hint, place: { file, ...place }, fix });
    },
  };
}

/** What the source brought, before anything was made from it. */
export function checkSource(model: Model, file: string, note: Note): void {
  const named = (test: (part: Model['parts'][number]) => boolean) => [...new Set(model.parts.filter(test).map((part) => part.name))];
  const list = (names: string[]) => (names.length > 4 ? `${names.slice(0, 4).join(', ')} and ${names.length - 4} more` : names.join(', '));
  const noNormals = named((part) => !part.normals);
  if (noNormals.length > 0)
    note('model-no-normals', 'note', `${file} has no normals in ${list(noNormals)}; they were made from the faces.`, {
      hint: 'Export with normals or smoothing groups to keep your own shading.',
      change: ['Show flat faces instead', { normals: 'flat' }],
    });
  else if (flatShaded(model))
    note('model-no-smoothing', 'note', `${file} was exported with one normal per face, so round shapes look faceted.`, {
      hint: 'Export with smoothing, or let it be smoothed here.',
      change: ['Smooth it under 40°', { normals: 'smooth', smoothAngle: 40 }],
    });
  const noUvs = named((part) => !part.uvs);
  if (noUvs.length > 0)
    note('model-no-uvs', 'warning', `${file} has no texture coordinates in ${list(noUvs)}.`, {
      hint: 'A texture would show as one colour. Unwrap the model before exporting.',
    });
  if (model.leftOut.length > 0) note('model-left-out', 'note', `${file}: ${model.leftOut.join(', ')} were left out.`);
  for (const { wanted, found } of model.textures) {
    if (found)
      note('model-texture-near', 'note', `${file} asks for ${wanted}; ${found} was taken, whose name differs.`, {
        hint: 'Games tell capitals apart. Give it the exact name in the model, or keep this.',
      });
    else
      note('model-texture-missing', 'warning', `${file} asks for ${wanted}, which did not come with it.`, {
        hint: 'Drop it together with the model, or choose a material for the slot.',
      });
  }
}

/** Whether every triangle of a model with many of them has one normal in all corners, though it is round. */
function flatShaded(model: Model): boolean {
  let [triangles, flat] = [0, 0];
  for (const { normals, indices } of model.parts) {
    if (!normals) continue;
    for (let t = 0; t < indices.length; t += 3) {
      triangles++;
      const [a, b, c] = [indices[t] * 3, indices[t + 1] * 3, indices[t + 2] * 3];
      const same = (i: number, j: number) => normals[i] * normals[j] + normals[i + 1] * normals[j + 1] + normals[i + 2] * normals[j + 2] > 0.9999;
      if (same(a, b) && same(b, c)) flat++;
    }
  }
  // Boxes and other plain things are flat and right.
  return triangles >= 64 && flat === triangles;
}

/** The surface as it came out. */
export function checkSurface(model: Model, surface: Surface, options: ModelOptions, file: string, note: Note): void {
  const placeOf = (triangles: readonly number[]): Place => {
    let p = surface.partStart.length - 1;
    while (p > 0 && surface.partStart[p] > triangles[0]) p--;
    return { part: model.parts[p]?.name, triangles: triangles.slice(0, SHOWN) };
  };
  const { flat, twice } = uselessTriangles(surface);
  const triangles = surface.indices.length / 3;
  if (flat.length * 2 > triangles)
    note('model-degenerate', 'blocker', `${flat.length} of ${triangles} triangles of ${file} have no area, so hardly anything of it would show.`, {
      hint: 'Its exporter may have collapsed an axis, or written the corners of strips as if they were triangles. Look at it in the program that made it, and export it as GLB.',
      place: placeOf(flat),
    });
  else if (flat.length > 0)
    note('model-flat-faces', 'note', `${file} has ${flat.length} ${flat.length === 1 ? 'triangle' : 'triangles'} without area.`, {
      hint: 'They do no harm but cost time.',
      change: ['Drop them', { tidy: true }],
      place: placeOf(flat),
    });
  if (twice.length > 0)
    note('model-double-faces', 'warning', `${file} has ${twice.length} ${twice.length === 1 ? 'triangle' : 'triangles'} twice in the same place.`, {
      hint: 'They flicker, or hide each other.',
      change: ['Drop the second ones', { tidy: true }],
      place: placeOf(twice),
    });
  const sides = checkSides(surface);
  if (sides.insideOut.length > 0)
    note('model-inside-out', 'warning', `${file} is inside out: ${sides.insideOut.length} triangles of closed shapes face inwards.`, {
      hint: 'From outside one sees through it.',
      change: ['Turn the faces outwards', sides.insideOut.length === surface.indices.length / 3 ? { winding: 'flip' } : { winding: 'repair' }],
      place: placeOf(sides.insideOut),
    });
  if (sides.disagreeing.length > 0)
    note('model-winding', 'warning', `${file} has ${sides.disagreeing.length} triangles that face the other way than their neighbours.`, {
      hint: 'They show as holes.',
      change: ['Turn them to agree', { winding: 'repair' }],
      place: placeOf(sides.disagreeing),
    });
  if (sides.branching.length > 0)
    note('model-non-manifold', 'note', `${file} has ${sides.branching.length} triangles at edges that more than two triangles share.`, {
      hint: 'It cannot be told what is inside there, so volume and smoothing may be wrong.',
      place: placeOf(sides.branching),
    });
  let before = 0;
  const collapsed: number[] = [];
  for (const part of model.parts) {
    for (const t of collapsedUvs(part)) collapsed.push(before + t);
    before += part.indices.length / 3;
  }
  if (collapsed.length > 0)
    note('model-uvs-collapsed', 'warning', `${file} has ${collapsed.length} triangles whose texture coordinates have no area.`, {
      hint: 'The texture smears there. Unwrap those faces.',
      place: placeOf(collapsed),
    });
  if (model.parts.some((part) => part.lightUvs)) {
    const overlap = lightmapOverlap(model.parts);
    if (overlap.outside > 0)
      note('model-lightmap-outside', 'warning', `${file} has ${overlap.outside} triangles whose lightmap coordinates leave the square from 0 to 1.`);
    if (overlap.share > OVERLAP_SHOWS)
      note(
        'model-lightmap-overlap',
        'warning',
        `${file} has lightmap coordinates that overlap on ${Math.round(overlap.share * 100)} % of the covered area.`,
        {
          hint: 'Light of one face would show on another. The second set of texture coordinates must not overlap.',
          place: placeOf(overlap.triangles),
        },
      );
  }
  if (options.normals === 'keep') checkKeptNormals(model, surface, file, note, placeOf);
}

/** Normals that point against their faces make a model look black from where the light is. */
function checkKeptNormals(model: Model, surface: Surface, file: string, note: Note, placeOf: (t: readonly number[]) => Place): void {
  const against: number[] = [];
  model.parts.forEach((part, p) => {
    const { normals, positions, indices } = part;
    if (!normals) return;
    for (let t = 0; t < indices.length; t += 3) {
      const a = indices[t] * 3;
      const b = indices[t + 1] * 3;
      const c = indices[t + 2] * 3;
      const ux = positions[b] - positions[a];
      const uy = positions[b + 1] - positions[a + 1];
      const uz = positions[b + 2] - positions[a + 2];
      const vx = positions[c] - positions[a];
      const vy = positions[c + 1] - positions[a + 1];
      const vz = positions[c + 2] - positions[a + 2];
      const dot =
        (uy * vz - uz * vy) * (normals[a] + normals[b] + normals[c]) +
        (uz * vx - ux * vz) * (normals[a + 1] + normals[b + 1] + normals[c + 1]) +
        (ux * vy - uy * vx) * (normals[a + 2] + normals[b + 2] + normals[c + 2]);
      if (dot < 0) against.push(surface.partStart[p] + t / 3);
    }
  });
  if (against.length * 20 > surface.indices.length / 3)
    note('model-normals-against', 'warning', `${file} has ${against.length} triangles whose normals point into the surface; they shade black.`, {
      change: ['Make the normals anew', { normals: 'smooth' }],
      place: placeOf(against),
    });
}

/** Size, pivot and budget against the profile. @param bounds game units, z up */
export function checkFit(profile: Profile, model: Model, bounds: Box3, options: ModelOptions, file: string, note: Note): void {
  const size = boxSize(bounds);
  const height = size[2];
  const unit = profile.unit.plural;
  const slack = Math.max(0.02 * height, 0.5 * profile.grid.min);
  const stand: [string, Partial<ModelOptions>] = ['Put the pivot at the base', { pivot: 'base' }];
  if (bounds.min[2] < -slack && height > 0) {
    const share = Math.round((-bounds.min[2] / height) * 100);
    note('model-sinks', 'warning', `${file} sinks into the floor: ${Math.min(100, share)} % of it lies below its pivot.`, {
      hint: 'Objects stand on their pivot.',
      change: stand,
    });
  } else if (bounds.min[2] > slack)
    note('model-floats', 'warning', `${file} floats: its lowest point is ${trim(bounds.min[2])} ${unit} above its pivot.`, {
      hint: 'Objects stand on their pivot.',
      change: stand,
    });
  const away = Math.max(...[0, 1].map((axis) => Math.max(bounds.min[axis], -bounds.max[axis])));
  if (away > Math.max(size[0], size[1], profile.grid.min))
    note('model-off-pivot', 'warning', `${file} stands ${trim(away)} ${unit} away from its pivot.`, {
      hint: 'It would appear beside the place where it is put.',
      change: stand,
    });
  const largest = Math.max(...size);
  if (!(largest > 0)) {
    note('model-no-size', 'blocker', `${file} has no size: all its points lie in one place.`, {
      hint: 'A scale of 0 in a node, or a unit of 0 in the file, is the usual cause. Apply the scale before exporting.',
    });
    return;
  }
  if (largest > profile.models.maxSize)
    note(
      'model-large',
      'warning',
      `${file} is ${Math.round(largest)} ${unit} long, ${Math.round(largest / profile.player.height)} times the player; at most ${profile.models.maxSize} are planned for.`,
      { hint: 'The unit may be wrong.', change: options.unit === 'm' ? ['Read it as centimetres', { unit: 'cm' }] : undefined },
    );
  else if (largest < profile.player.height / SMALL)
    note('model-small', 'warning', `${file} is only ${largest.toPrecision(2)} ${unit} large, beside a player of ${profile.player.height}.`, {
      hint: 'The unit may be wrong.',
      change: options.unit !== 'm' ? ['Read it as metres', { unit: 'm' }] : undefined,
    });
  const triangles = triangleCount(model);
  if (triangles > profile.models.maxTriangles)
    note('model-triangles', 'warning', `${file} has ${triangles} triangles; ${profile.title} takes up to ${profile.models.maxTriangles} per model.`, {
      hint: 'Reduce it, split it into several models, or let players far away see less of it.',
      change: options.lods.length === 0 ? ['Add levels of detail', { lods: [0.5, 0.25, 0.1] }] : undefined,
    });
  const materials = new Set(model.parts.map((part) => part.material)).size;
  if (materials > profile.models.maxMaterials)
    note('model-materials', 'warning', `${file} uses ${materials} materials; ${profile.title} takes up to ${profile.models.maxMaterials}.`, {
      hint: 'Every material is drawn by itself. Merge some, or paint them into one texture.',
    });
  const bones = new Set(model.rig?.skins.flatMap((skin) => skin.joints)).size;
  const { maxBones } = profile.models;
  if (maxBones !== undefined && bones > maxBones)
    note('model-bones', 'warning', `${file} bends on ${bones} bones; ${profile.title} takes up to ${maxBones}.`);
}

/** Below this part of the player's height nothing is modelled on purpose. */
export const SMALL = 60;

export function checkCollision(collision: CollisionShape | null, options: ModelOptions, file: string, note: Note): void {
  if (options.movable && options.collision === 'none')
    note('model-movable-without-shape', 'warning', `${file} is to be movable but has no collision shape.`, {
      hint: 'Physics moves shapes, not pictures.',
      change: ['Give it a convex hull', { collision: 'hull' }],
    });
  if (options.movable && options.collision === 'exact')
    note('model-movable-exact', 'warning', `${file} is to be movable, but its collision shape is the exact mesh.`, {
      hint: 'Moving things need convex shapes.',
      change: ['Use convex parts', { collision: 'parts' }],
    });
  if (!collision) return;
  if (options.movable && collision.meshVolume === null && options.mass <= 0)
    note('model-mass-guessed', 'note', `${file} is not closed, so its mass of ${trim(collision.mass)} kg was taken from its collision shape.`, {
      hint: 'Set a mass if it should feel lighter or heavier.',
    });
  const ratio = collision.meshVolume ? collision.volume / collision.meshVolume : 1;
  if ((options.collision === 'hull' || options.collision === 'box') && ratio > 1.6)
    note(
      'model-collision-loose',
      'note',
      `The collision shape of ${file} is ${trim(ratio)} times as large as the model; players will bump into air.`,
      {
        change: ['Use several convex parts', { collision: 'parts' }],
      },
    );
}

export function checkSlots(slots: readonly SlotChoice[], available: readonly string[], file: string, note: Note): void {
  for (const { slot, material, by } of slots) {
    if (by === 'likeness')
      note('model-slot-guessed', 'note', `Slot "${slot}" of ${file} took the material ${material}, whose name is alike.`, {
        change: ['Keep the model’s own colour', { materials: { [slot]: '' } }],
      });
    if (by === 'hand' && material !== '' && !available.includes(material))
      note('model-slot-missing', 'warning', `Slot "${slot}" of ${file} is to take the material ${material}, which does not exist.`, {
        change: ['Keep the model’s own colour', { materials: { [slot]: '' } }],
      });
  }
}

export const trim = (value: number): string => (Math.abs(value) >= 100 ? String(Math.round(value)) : Number(value.toPrecision(2)).toString());
