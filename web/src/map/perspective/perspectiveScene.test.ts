/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { beforeEach, describe, expect, it } from '@jest/globals';
import { Box3, Color, PerspectiveCamera, Scene, Vector3 } from 'three';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { boxCentre } from '@violet-crate/core/math/box3';
import { cube, object, profile, solid, withChanges } from '@violet-crate/core/testing/maps';
import { testWorld } from '@violet-crate/core/testing/world';
import { store } from '../../state/store.ts';
import { chosen, type ViewState } from '../../state/viewSlice.ts';
import { showGhost } from '../editing/ghost.ts';
import type { SheetColours } from '../editing/useDocument.ts';
import { PerspectiveScene, type PerspectiveInputs, type Picture } from './perspectiveScene.ts';

const m = profile.unit.metres;
const COLOURS = { warm: '#ffaa55', violet: '#8855ff', clear: '#55ffaa', sunken: '#101112' } as SheetColours;
const world = testWorld();
const hall = world.crate.maps.hall;
const VIEW = { ...store.getState().view, cutAway: false };

let drawn = 0;
let speeds: (number | null)[] = [];

function stand(): { scene: PerspectiveScene; host: HTMLElement; renderer: Picture['renderer'] } {
  const host = document.createElement('div');
  host.getBoundingClientRect = () => ({ left: 0, top: 0, width: 200, height: 100 }) as DOMRect;
  const camera = new PerspectiveCamera(60, 2, 0.02, 400);
  const renderer = { domElement: document.createElement('canvas'), clippingPlanes: [] } as unknown as Picture['renderer'];
  // As a renderer does, a picture brings matrices up to date.
  const draw = () => {
    camera.updateMatrixWorld();
    drawn++;
  };
  const scene = new PerspectiveScene({ scene: new Scene(), camera, renderer, draw, picture: (w, h) => `${w}x${h}` }, host, (speed) =>
    speeds.push(speed),
  );
  return { scene, host, renderer };
}

const source = { view: { id: 'c', files: [] }, profileId: profile.id } as unknown as PerspectiveInputs['source'];
const inputs = (view: Partial<ViewState> = {}, more: Partial<PerspectiveInputs> = {}): PerspectiveInputs => {
  const map = more.map ?? hall;
  const band = Object.values(map.bands)[0];
  const given = { world, source, mapName: 'hall', map, whole: map, solids: map.solids, view: { ...VIEW, ...view }, band, colours: COLOURS };
  return { ...given, stands: false, probes: null, ...more };
};
/** A scene that has seen the hall once. */
function shown(view: Partial<ViewState> = {}, more: Partial<PerspectiveInputs> = {}) {
  const made = stand();
  made.scene.update(inputs(view, more));
  drawn = 0;
  return made;
}
const MIDDLE = { clientX: 100, clientY: 50 };

beforeEach(() => {
  drawn = 0;
  speeds = [];
  showGhost(null);
});

describe('the scene follows its inputs', () => {
  it('the same inputs draw nothing anew', () => {
    const { scene } = shown();
    const [marks] = scene.marks.children;
    scene.update(inputs());
    expect(drawn).toBe(0);
    expect(scene.marks.children[0]).toBe(marks);
  });

  it('a selection makes its marks anew and nothing else', () => {
    const { scene } = shown();
    const groups = { links: scene.links.children[0], lights: scene.lights.children[0], solids: [...scene.solids.children] };
    const id = Object.keys(hall.solids)[0];
    scene.update(inputs({ selection: chosen({ kind: 'solids', ids: [id] }) }));
    expect(drawn).toBe(1);
    const box = new Box3().setFromObject(scene.marks);
    const { min, max } = shapeOf(hall.solids[id]).box;
    expect(box.min.toArray().map((v) => v / m)).toEqual([min[0], min[2], -max[1]]);
    expect(box.max.toArray().map((v) => v / m)).toEqual([max[0], max[2], -min[1]]);
    expect(scene.links.children[0]).toBe(groups.links);
    expect(scene.lights.children[0]).toBe(groups.lights);
    expect(scene.solids.children).toHaveLength(groups.solids.length);
    scene.solids.children.forEach((chunk, i) => expect(chunk).toBe(groups.solids[i]));
  });

  it('an edit of a solid makes its chunk anew, and leaves the camera', () => {
    const { scene } = shown();
    const before = scene.place();
    const map = withChanges(hall, solid('s900', cube([4000, 0, 0])));
    scene.update(inputs({}, { map }));
    expect(scene.solidsScene.rebuilt).toBe(1);
    expect(scene.place()).toEqual(before);
  });

  it('as the game shows it there are no marks and no signals, and the sky lies behind', () => {
    const { scene } = shown({ selection: chosen({ kind: 'solids', ids: Object.keys(hall.solids) }) });
    expect((scene.picture.scene.background as Color).getHexString()).toBe('101112');
    scene.update(inputs({ look: 'game' }));
    expect(scene.marks.visible).toBe(false);
    expect(scene.links.children).toEqual([]);
    expect((scene.picture.scene.background as Color).getHexString()).toBe(new Color(hall.settings.skyColour).getHexString());
  });

  it('what is hidden is not drawn, objects as well', () => {
    const map = withChanges(hall, object('o900', 'trigger', 'gate_trigger', [0, 0, 0]));
    const { scene } = shown({}, { map });
    const drawnObjects = () => scene.objects.group.children.map((child) => child.userData.object as string);
    expect(drawnObjects()).toContain('o900');
    scene.update(inputs({ hidden: { 'objects/o900': true } }, { map }));
    expect(drawnObjects()).not.toContain('o900');
    const solids = scene.solids.children.length;
    scene.update(inputs({ hidden: Object.fromEntries(Object.keys(map.solids).map((id) => [`solids/${id}`, true])) }, { map }));
    expect(solids).toBeGreaterThan(0);
    expect(scene.solids.children).toHaveLength(0);
  });

  it('above the band it is cut away, but not as in the game', () => {
    const { scene, renderer } = shown();
    expect(renderer.clippingPlanes).toEqual([]);
    scene.update(inputs({ cutAway: true }));
    const { top } = Object.values(hall.bands)[0];
    expect(renderer.clippingPlanes[0].constant).toBeCloseTo((top - 0.5) * m);
    scene.update(inputs({ cutAway: true, look: 'game' }));
    expect(renderer.clippingPlanes).toEqual([]);
  });

  it('what was built brings its own light', () => {
    const { scene } = shown();
    const lights = () => scene.lights.children[0].children.map((light) => light.type);
    expect(lights()).toEqual(['AmbientLight', 'DirectionalLight', 'DirectionalLight']);
    scene.update(inputs({ lit: true }, { stands: true }));
    expect(lights()).toEqual(['AmbientLight']);
  });

  it('a ghost is shown as soon as it is there, and leaves', () => {
    const { scene } = shown();
    showGhost({ solids: [cube([0, 0, 0])], lines: [] });
    expect(new Box3().setFromObject(scene.ghost).getSize(new Vector3()).x).toBeCloseTo(16 * m);
    showGhost(null);
    expect(scene.ghost.children).toEqual([]);
    scene.dispose();
    showGhost({ solids: [cube([0, 0, 0])], lines: [] });
    expect(scene.ghost.children).toEqual([]);
  });
});

describe('the camera', () => {
  it('first stands outside the map and looks at its middle', () => {
    const { scene } = shown();
    const { position, target } = scene.place();
    const boxes = Object.values(hall.solids).map((one) => boxCentre(shapeOf(one).box));
    expect(Math.abs(target[0])).toBeLessThanOrEqual(Math.max(...boxes.map(([x]) => Math.abs(x))));
    expect(position[2]).toBeGreaterThan(target[2]);
    expect(position[1]).toBeLessThan(target[1]);
  });

  it('goes where it is told, in map units, and is framed anew only for another crate', () => {
    const { scene } = shown();
    scene.goTo({ position: [10, -200, 80], target: [10, 0, 40] });
    const near = (values: number[], expected: number[]) => values.forEach((v, i) => expect(v).toBeCloseTo(expected[i], 4));
    near(scene.place().position, [10, -200, 80]);
    near(scene.place().target, [10, 0, 40]);
    scene.update(inputs({ hideUnseen: true }));
    near(scene.place().target, [10, 0, 40]);
    scene.update(inputs({}, { source: { ...source, view: { ...source.view, id: 'another' } } }));
    expect(scene.place().target[2]).not.toBeCloseTo(40, 4);
  });

  it('comes near what a finding shows, once for each request', () => {
    const { scene } = shown();
    const focus = { point: [64, 32, 16] as [number, number, number], count: 1, frame: 40 };
    scene.update(inputs({ focus }));
    const { position, target } = scene.place();
    target.forEach((v, i) => expect(v).toBeCloseTo(focus.point[i], 4));
    expect(Math.hypot(...position.map((v, i) => v - target[i]))).toBeCloseTo(64, 3);
    scene.goTo({ position: [0, -100, 0], target: [0, 0, 0] });
    scene.update(inputs({ focus, hour: 6 }));
    expect(scene.place().position[1]).toBeCloseTo(-100, 4);
  });

  it('follows what is selected by exactly as far as it moved', () => {
    const map = withChanges(hall, solid('s900', cube([0, 0, 0])));
    const follow = { follow: true, selection: chosen({ kind: 'solids', ids: ['s900'] }) };
    const { scene } = shown(follow, { map });
    const before = scene.place();
    scene.update(inputs(follow, { map: withChanges(map, solid('s900', cube([32, 8, 0]))) }));
    const after = scene.place();
    [32, 8, 0].forEach((by, i) => {
      expect(after.position[i] - before.position[i]).toBeCloseTo(by, 4);
      expect(after.target[i] - before.target[i]).toBeCloseTo(by, 4);
    });
  });

  it('flying takes the controls, tells its speed, and gives them back', () => {
    const { scene, host } = shown();
    expect(speeds).toEqual([null]);
    scene.update(inputs({ fly: true }));
    expect(scene.controls.enabled).toBe(false);
    host.dispatchEvent(new WheelEvent('wheel', { deltaY: -1 }));
    expect(speeds.slice(1)).toEqual([2, 4]);
    // A drag that ends while flying does not give them back.
    scene.hold(false);
    expect(scene.controls.enabled).toBe(false);
    scene.update(inputs({ fly: false }));
    expect(scene.controls.enabled).toBe(true);
    expect(speeds.at(-1)).toBe(null);
    host.dispatchEvent(new WheelEvent('wheel', { deltaY: -1 }));
    expect(speeds).toHaveLength(4);
  });
});

describe('the pointer', () => {
  const looking = (view: Partial<ViewState> = {}) => {
    const map = withChanges(hall, solid('s900', cube([0, 0, 4000], 64)));
    const made = shown(view, { map });
    made.scene.goTo({ position: [32, -100, 4032], target: [32, 0, 4032] });
    return made;
  };

  it('hits the face that it points at', () => {
    const { scene } = looking();
    const [hit] = scene.pick(MIDDLE);
    expect(hit.solid).toBe('s900');
    [32, 0, 4032].forEach((v, i) => expect(hit.point[i]).toBeCloseTo(v, 3));
  });

  it('puts the figure of the player where it points, and takes it away elsewhere', () => {
    const { scene } = looking({ figure: true });
    scene.standAt(MIDDLE);
    expect(scene.figure.visible).toBe(true);
    expect(scene.figure.position.y).toBeCloseTo(4032 * m, 3);
    scene.standAt({ clientX: 0, clientY: 0 });
    expect(scene.figure.visible).toBe(false);
  });

  it('a picture is taken without marks, and they come back', () => {
    const { scene } = looking();
    let seen = true;
    scene.picture.picture = () => {
      seen = scene.marks.visible || scene.links.visible || scene.ghost.visible;
      return 'data:';
    };
    scene.links.visible = false;
    expect(scene.takePicture(4, 3)).toBe('data:');
    expect(seen).toBe(false);
    expect(scene.marks.visible).toBe(true);
    expect(scene.links.visible).toBe(false);
  });
});
