/** From a model file to the GLB that a game loads, with everything noticed on the way. */

import type { Finding } from '../../finding.ts';
import { UnreadableInput } from '../../unreadable.ts';
import type { Box3 } from '../../math/box3.ts';
import type { Vec3 } from '../../math/vec3.ts';
import type { Profile } from '../../profile/schema.ts';
import { fittedSize } from '../texture/convert.ts';
import { encodeKtx2 } from '../texture/encodeKtx2.ts';
import { mipmaps } from '../texture/mipmaps.ts';
import type { Picture } from '../texture/picture.ts';
import { readImage } from '../texture/readImage.ts';
import { resizePicture } from '../texture/resize.ts';
import { checkCollision, checkFit, checkSlots, checkSource, checkSurface, noteTaker } from './check/check.ts';
import { collisionShape, type CollisionShape } from './geometry/collision.ts';
import type { Companions } from './read/companions.ts';
import { makeLods, type Lod } from './geometry/lods.ts';
import { chooseSlots, type SlotChoice } from './model/materialSlots.ts';
import { triangleCount, vertexCount, type Model, type ModelImage, type ModelPart } from './model/model.ts';
import { computeNormals, unitNormals } from './geometry/normals.ts';
import { defaultModelOptions, LENGTH_UNITS, UNITS, type ModelOptions } from './model/options.ts';
import { pictureOfModel } from './picture.ts';
import { shiftModel, sourceMatrix, transformModel } from './geometry/place.ts';
import { readModel, type FileBytes } from './read/readModel.ts';
import { meshHash, repeatsPerUnit } from './geometry/likeness.ts';
import { allPositions, boundsOf, boundsOfParts, soupOf, surfaceOf } from './geometry/surface.ts';
import { makeTangents } from './geometry/tangents.ts';
import { dropTriangles, trianglesToTurn, turnTriangles, uselessTriangles } from './geometry/tidy.ts';
import { resolveUnit, unitName } from './check/unit.ts';
import { dropUnused, weld } from './geometry/weld.ts';
import { writeGlb } from './write/writeGlb.ts';
import { own } from '../../own.ts';

export interface ConvertedModel {
  glb: Uint8Array;
  /** PNG of the model, 192 pixels square. */
  preview: Uint8Array;
  /** As resolved: unit and up axis are what was taken. */
  options: ModelOptions;
  /** About the origin in units, z up. */
  bounds: Box3;
  /** Where the pivot is in the world of the file: game units, z up. */
  pivotAt: Vec3;
  triangles: number;
  vertices: number;
  materials: string[];
  slots: SlotChoice[];
  lods: Omit<Lod, 'indices'>[];
  collision: (Omit<CollisionShape, 'bodies'> & { parts: number }) | null;
  clips: string[];
  bones: number;
  findings: Finding[];
  /** See `geometry/likeness.ts`; per game unit. */
  shape: string;
  repeats?: number;
  /** The model itself as written, for other formats. */
  model: Model;
}

export interface ModelSource {
  file: string;
  bytes: FileBytes;
  companions?: Companions;
  /** Names of the materials that slots can take. */
  materials?: readonly string[];
}

export async function convertModel(profile: Profile, source: ModelSource, given: Partial<ModelOptions> = {}): Promise<ConvertedModel> {
  const wanted = { ...defaultModelOptions(profile), ...given };
  if (!UNITS.includes(wanted.unit))
    throw new UnreadableInput('option-unit', `Unit "${wanted.unit}" is not known; use auto, game, ${Object.keys(LENGTH_UNITS).join(', ')}.`);
  const { model, lods, collision, ...made } = await prepared(profile, source, wanted);
  const { slots } = made;
  return {
    // Writing takes as much memory again as the model; its surface is gone by now.
    glb: await writeGlb({ model, lods, collision, slots }),
    ...made,
    triangles: triangleCount(model),
    vertices: vertexCount(model.parts),
    materials: [...new Set(model.parts.map((part) => part.material))],
    lods: lods.map(({ triangles, target, error, switchDistance }) => ({ triangles, target, error, switchDistance })),
    collision: collision && {
      kind: collision.kind,
      volume: collision.volume,
      meshVolume: collision.meshVolume,
      mass: collision.mass,
      parts: collision.bodies.length,
    },
    clips: model.rig?.clips.map((clip) => clip.name) ?? [],
    bones: new Set(model.rig?.skins.flatMap((skin) => skin.joints)).size,
    model,
  };
}

/** Everything up to writing: read, placed, finished, checked and drawn. */
async function prepared(profile: Profile, source: ModelSource, wanted: ModelOptions) {
  const { file, bytes, companions = new Map(), materials = [] } = source;
  let model = await readModel(bytes, file, companions);

  const raw = boundsOfParts(model.parts, model.rig);
  const resolved = resolveUnit(profile, wanted, model.stated, Math.max(...[0, 1, 2].map((k) => raw.max[k] - raw.min[k])));
  /** As resolved: unit and up axis are what was taken. */
  const options: ModelOptions = { ...wanted, unit: resolved.unit, upAxis: resolved.upAxis };
  const { findings, note } = noteTaker(file, options);
  if (resolved.guess)
    note('model-unit-guessed', 'note', `${file} states no unit; it was read in ${unitName(profile, resolved.unit)}: ${resolved.guess}.`, {
      hint: 'The unit can be set by hand.',
      change: [`Read it in ${unitName(profile, profile.models.unit)}`, { unit: profile.models.unit }],
    });
  checkSource(model, file, note);

  const matrix = sourceMatrix(resolved.metres, resolved.upAxis, options.handedness === 'left');
  const origin = model.origin && toMetres(model.origin, matrix.elements);
  model = finishParts(transformModel(model, matrix), options);
  const unshifted = surfaceOf(model.parts, model.rig);
  const shift = pivotShift(profile, options, boundsOf(unshifted.positions), origin);
  model = shiftModel(model, shift);
  const surface = { ...unshifted, positions: allPositions(model.parts, model.rig) };

  const bounds = inUnits(boundsOf(surface.positions), profile.unit.metres);
  const lods = await makeLods(model.parts, options.lods);
  const collision = await collisionShape(surface, options);
  const slots = chooseSlots(
    [...new Set(model.parts.map((part) => part.material))].map((name) => ({ name, hasPicture: Boolean(own(model.materials, name)?.image) })),
    materials,
    options.materials,
  );
  checkSurface(model, surface, options, file, note);
  checkFit(profile, model, bounds, options, file, note);
  checkCollision(collision, options, file, note);
  checkSlots(slots, materials, file, note);

  const pictures = await encodePictures(profile, model, slots, file, findings);
  const preview = pictureOfModel(model, surface, pictures);
  const pivotAt: Vec3 = [tidy(-shift[0] / profile.unit.metres), tidy(shift[2] / profile.unit.metres), tidy(-shift[1] / profile.unit.metres)];
  const repeats = repeatsPerUnit(model.parts);
  return {
    model,
    options,
    bounds,
    pivotAt,
    lods,
    collision,
    slots,
    preview,
    findings,
    shape: meshHash(surface),
    ...(repeats === null ? {} : { repeats: tidy(repeats * profile.unit.metres) }),
  };
}

/** Merging, tidying, winding, normals and tangents, in the order in which each needs the one before. */
function finishParts(model: Model, options: ModelOptions): Model {
  let { parts } = model;
  const distance = options.weld;
  // Normals made anew give every corner a vertex of its own; merging identical ones before would be in vain.
  const anew = (part: ModelPart) => options.normals !== 'keep' || !part.normals;
  if (distance >= 0) parts = parts.map((part) => (distance === 0 && anew(part) ? part : weld(part, distance)));
  if (options.tidy) {
    const soup = soupOf(parts, model.rig);
    const { flat, twice } = uselessTriangles(soup);
    parts = dropTriangles(parts, soup, [...flat, ...twice]);
  }
  let remake = options.normals === 'smooth';
  if (options.winding === 'flip') parts = parts.map(flipped);
  else if (options.winding === 'repair') {
    const surface = surfaceOf(parts, model.rig);
    const turn = trianglesToTurn(surface);
    if (turn.includes(1)) {
      parts = turnTriangles(parts, surface, turn);
      // Turned and unturned triangles may share vertices, whose kept normals would be wrong for one of them.
      remake = true;
    }
  }
  parts = parts.map((part) => {
    let out = part;
    if (options.normals === 'flat') out = computeNormals(out, 0);
    else if (remake || !out.normals) out = computeNormals(out, options.smoothAngle);
    else if (out.normals) out = { ...out, normals: unitNormals(out.normals) };
    if (out !== part && distance >= 0) out = weld(out, 0);
    const bumpy = Boolean(own(model.materials, part.material)?.normalImage);
    if (options.tangents === 'none') out = { ...out, tangents: null };
    else if (options.tangents === 'make' || (bumpy && !out.tangents)) out = weld(makeTangents(out), 0);
    return dropUnused(out);
  });
  if (parts.length === 0) throw new UnreadableInput('model-empty', 'Nothing is left of the model: all its triangles are without area.');
  return { ...model, parts };
}

function flipped(part: ModelPart): ModelPart {
  const indices = part.indices.slice();
  for (let i = 0; i < indices.length; i += 3) [indices[i + 1], indices[i + 2]] = [indices[i + 2], indices[i + 1]];
  return { ...part, indices, normals: part.normals && part.normals.map((v) => -v) };
}

/** From where the world's origin is to where the pivot shall be: metres, y up. */
function pivotShift(profile: Profile, options: ModelOptions, box: Box3, origin: Vec3 | undefined): Vec3 {
  const middle = [0, 1, 2].map((k) => -(box.min[k] + box.max[k]) / 2) as Vec3;
  const m = profile.unit.metres;
  switch (options.pivot) {
    case 'base':
      return [middle[0], -box.min[1], middle[2]];
    case 'centre':
      return middle;
    case 'world':
      return [0, 0, 0];
    case 'point':
      // Game units, z up, into metres, y up.
      return [-options.pivotPoint[0] * m, -options.pivotPoint[2] * m, options.pivotPoint[1] * m];
    default:
      return origin ? [-origin[0], -origin[1], -origin[2]] : [0, 0, 0];
  }
}

const toMetres = (p: Vec3, e: readonly number[]): Vec3 => [0, 1, 2].map((k) => e[k] * p[0] + e[4 + k] * p[1] + e[8 + k] * p[2]) as Vec3;

const tidy = (v: number): number => Math.round(v * 1e4) / 1e4 + 0;

/** glTF metres (y up) to map units (z up): (x, y, z) becomes (x, -z, y). */
function inUnits(box: Box3, metresPerUnit: number): Box3 {
  const [min, max] = [box.min.map((v) => v / metresPerUnit), box.max.map((v) => v / metresPerUnit)];
  return { min: [tidy(min[0]), tidy(-max[2]), tidy(min[1])], max: [tidy(max[0]), tidy(-min[2]), tidy(max[1])] };
}

/** Turns the model's own pictures into KTX2 within the profile's size; a broken one is left out and named. */
async function encodePictures(
  profile: Profile,
  model: Model,
  slots: readonly SlotChoice[],
  file: string,
  findings: Finding[],
): Promise<Map<string, Picture>> {
  const pictures = new Map<string, Picture>();
  const done = new Map<Uint8Array, { image: ModelImage; picture: Picture } | null>();
  const encode = async (image: ModelImage, slot: string, normal: boolean, cutout: boolean) => {
    const known = done.get(image.bytes);
    if (known !== undefined) return known;
    let result: { image: ModelImage; picture: Picture } | null = null;
    try {
      const source = await readImage(image.bytes, `the picture of "${slot}"`);
      const { width, height } = fittedSize(profile, source.width, source.height, 0);
      const picture = resizePicture(source, width, height, normal ? 'normal' : 'colour');
      const bytes = await encodeKtx2(mipmaps(picture, normal ? 'normal' : 'colour', cutout), { form: 'uastc', srgb: !normal, normal });
      result = { image: { mimeType: 'image/ktx2', bytes }, picture };
    } catch (error) {
      if (!(error instanceof UnreadableInput)) throw error;
      findings.push({
        code: 'model-texture-broken',
        severity: 'warning',
        stage: 'assets',
        message: `${file}: ${error.message}`,
        hint: 'The slot keeps its colour. Choose a material for it, or export the picture again.',
        place: { file },
      });
    }
    done.set(image.bytes, result);
    return result;
  };
  for (const [slot, material] of Object.entries(model.materials)) {
    // A chosen material brings its own pictures.
    if (slots.find((choice) => choice.slot === slot)?.material) continue;
    if (material.image) {
      const encoded = await encode(material.image, slot, false, material.cutout ?? false);
      if (encoded) pictures.set(slot, encoded.picture);
      model.materials[slot] = { ...model.materials[slot], image: encoded?.image };
    }
    if (material.normalImage)
      model.materials[slot] = { ...model.materials[slot], normalImage: (await encode(material.normalImage, slot, true, false))?.image };
  }
  return pictures;
}
