import { describe, expect, it } from '@jest/globals';
import { Document, WebIO } from '@gltf-transform/core';
import { decode, encode } from 'fast-png';
import type { Vec3 } from '../math/vec3.ts';
import { newObject } from '../profile/newObject.ts';
import { testWorld } from '../testing/world.ts';
import { startView } from './startView.ts';
import { renderThumbnail, type ThumbnailView } from './thumbnail.ts';

const METRES = 0.5;
const COLOUR = [0.8, 0.4, 0.2];
const RANGE = 2;
/** Light of the left and right half, above and below. */
const LIGHT = [
  [255, 128],
  [64, 32],
];
const SKY: [number, number, number] = [0.1, 0.2, 0.5];

interface Given {
  colour?: 'extras' | 'factor';
  light?: boolean;
  /** What belongs to no group of surfaces is no part of the map. */
  group?: number;
}

/** A wall at y = 10 units from x = -20 to 0 and z = -10 to 10, as the build writes it: glTF metres, y up. */
async function wall({ colour = 'extras', light = true, group = 0 }: Given = {}): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const gltf = ([x, y, z]: Vec3): Vec3 => [x * METRES, z * METRES, -y * METRES];
  const corners: Vec3[] = [
    [-20, 10, -10],
    [0, 10, -10],
    [0, 10, 10],
    [-20, 10, 10],
  ];
  const accessor = (type: 'VEC2' | 'VEC3' | 'SCALAR', array: Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const material = document.createMaterial();
  if (colour === 'factor') material.setBaseColorFactor([...COLOUR, 1] as [number, number, number, number]);
  material.setExtras({ ...(colour === 'extras' ? { colour: COLOUR } : {}), ...(light ? { lightmap: { image: 0, range: RANGE } } : {}) });
  if (light) {
    const data = Uint8Array.from(LIGHT.flat().flatMap((v) => [v, v, v]));
    document
      .createTexture()
      .setMimeType('image/png')
      .setImage(encode({ width: 2, height: 2, data, channels: 3, depth: 8 }) as Uint8Array<ArrayBuffer>);
  }
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', Float32Array.from(corners.flatMap(gltf))))
    // v runs downwards.
    .setAttribute('TEXCOORD_1', accessor('VEC2', Float32Array.from([0, 1, 1, 1, 1, 0, 0, 0])))
    .setIndices(accessor('SCALAR', Uint16Array.from([0, 1, 2, 0, 2, 3])))
    .setMaterial(material);
  const node = document.createNode().setMesh(document.createMesh().addPrimitive(primitive));
  if (group >= 0) node.setExtras({ group });
  document.createScene().addChild(node);
  return new WebIO().writeBinary(document);
}

// Of 90° upright and twice as wide as high, the middles of pixels lie at 0.5 and 1.5 of the distance aside, 0.5 up and down.
const VIEW: ThumbnailView = { eye: [0, 0, 0], direction: [0, 1, 0], fieldOfView: 90, width: 4, height: 2, sky: SKY };
const pixels = async (given?: Given, view: Partial<ThumbnailView> = {}): Promise<number[][]> => {
  const { data, width, height } = decode(await renderThumbnail(await wall(given), METRES, { ...VIEW, ...view }));
  return Array.from({ length: width * height }, (_, i) => [...data.slice(i * 3, i * 3 + 3)] as number[]);
};

/** IEC 61966-2-1. */
const toLinear = (v: number) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
const toSrgb = (v: number) => (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055);
/** What the picture makes of light: fitted to the screen by an exponential. */
const seen = (colour: readonly number[]) => colour.map((v) => Math.round(toSrgb(1 - Math.exp(-1.6 * v)) * 255));
const lit = (value: number) => seen(COLOUR.map((c) => c * toLinear(value / 255) * RANGE));

describe('a picture of a built map', () => {
  it('has the sky beside the wall, and on it each texel of its light at its place', async () => {
    const sky = seen(SKY);
    expect(await pixels()).toEqual([lit(255), lit(128), sky, sky, lit(64), lit(32), sky, sky]);
  });

  it('takes the mean colour beside a picture before the factor, and the factor of older maps', async () => {
    expect(await pixels({ colour: 'factor' })).toEqual(await pixels());
  });

  it('without light is evenly grey, and what is of no group is no part of it', async () => {
    expect((await pixels({ light: false }))[0]).toEqual(seen(COLOUR.map((c) => c * toLinear(188 / 255))));
    expect(new Set((await pixels({ group: -1 })).map(String))).toEqual(new Set([seen(SKY).join()]));
  });

  it('turns and moves with the eye', async () => {
    const sky = seen(SKY);
    // The other way there is nothing.
    expect(await pixels({}, { direction: [0, -1, 0] })).toEqual(Array.from({ length: 8 }, () => sky));
    // From further right all of the wall lies to the left; from its middle it fills the picture.
    expect((await pixels({}, { eye: [25, 0, 0] })).map(String).filter((p) => p !== sky.join())).toEqual([]);
    expect((await pixels({}, { eye: [-10, 0, 0], fieldOfView: 40 })).map(String)).not.toContain(sky.join());
    // From below, the upper pixels pass over its top.
    expect((await pixels({}, { eye: [0, 0, 8] })).slice(0, 2)).toEqual([sky, sky]);
    // Nearer, less of the width is met.
    expect((await pixels({}, { eye: [-20, 5, 0] })).slice(0, 2)).toEqual([sky, sky]);
  });
});

describe('the view from the start', () => {
  it('stands where a player begins, looks where the start is turned, a little down', () => {
    const world = testWorld();
    for (const [id, { class: classId }] of Object.entries(world.crate.maps.hall.objects))
      if (classId === 'start') delete world.crate.maps.hall.objects[id];
    world.crate.maps.hall.objects.o9 = { ...newObject(world.profile, 'start', 'start', [10, 20, 30]), turn: 90 };
    world.crate.maps.hall.settings.skyColour = '#ff0000';
    const view = startView(world, 'hall');
    expect(view.eye).toEqual([10, 20, 30 + world.profile.player.eyeHeight * 1.5]);
    expect(view.direction[0]).toBeCloseTo(0);
    expect(view.direction[1]).toBeCloseTo(1);
    expect(view.direction[2]).toBeLessThan(0);
    expect([view.width, view.height]).toEqual([world.profile.package.thumbnailWidth, world.profile.package.thumbnailHeight]);
    expect(view.sky).toEqual([1, 0, 0]);
  });

  it('without a start it stands at the origin and looks along x', () => {
    const world = testWorld('blank');
    for (const id of Object.keys(world.crate.maps.hall.objects)) delete world.crate.maps.hall.objects[id];
    const { eye, direction } = startView(world, 'hall');
    expect(eye.slice(0, 2)).toEqual([0, 0]);
    expect(direction.slice(0, 2)).toEqual([1, 0]);
  });
});
