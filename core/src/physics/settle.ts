/** Letting movable props fall and come to rest, by rigid-body physics (Rapier), before the map is built. */

import type { RigidBody } from '@dimforge/rapier3d-deterministic-compat';
import { assetRecord, type CrateWorld } from '../crate/world.ts';
import { boxCentre, boxSize } from '../math/box3.ts';
import type { Vec3 } from '../math/vec3.ts';
import { collides } from '../profile/parts.ts';
import { skeletonOf } from '../solid/reshape.ts';
import type { Change, MapEdit } from '../document/edit.ts';
import { collidersOf } from '../map/member/members.ts';
import { isMovable } from '../map/movable.ts';
import { modelOf, objectBox } from '../map/objectBox.ts';
import type { GameMap, MapObject } from '../document/schema.ts';
import { loadRapier } from './rapier.ts';

const STEPS_PER_SECOND = 60;
const LONGEST = 10;

/**
 * The edit that puts movable props where they come to rest, or a sentence that says why there is none. Props are
 * boxes and stay upright, since objects only turn about z; solids and other props stand still. Physics runs in
 * metres for at most ten seconds of simulated time. What falls out of the map stays where it was.
 */
export async function settleProps(world: CrateWorld, map: GameMap, ids: readonly string[]): Promise<MapEdit | string> {
  const moving = ids.filter((id) => map.objects[id] && isMovable(world, map.objects[id]));
  if (moving.length === 0) return 'None of them is movable: that needs the property, and a model with a convex collision shape and a mass.';
  const rapier = await loadRapier();
  const m = world.profile.unit.metres;
  const physics = new rapier.World({ x: 0, y: 0, z: -world.profile.player.gravity * m });
  try {
    physics.timestep = 1 / STEPS_PER_SECOND;
    const colliders = collidersOf(map);
    for (const { solid } of colliders) {
      const shape = rapier.ColliderDesc.convexHull(Float32Array.from(skeletonOf(solid).corners.flat(), (v) => v * m));
      if (shape) physics.createCollider(shape.setFriction(0.8));
    }
    const cuboid = (object: MapObject) => {
      const upright = objectBox(world, { ...object, turn: 0 });
      const [x, y, z] = boxSize(upright).map((v) => Math.max(0.01, (v * m) / 2));
      const centre = boxCentre(upright).map((v, i) => (v - object.position[i]) * m) as Vec3;
      return rapier.ColliderDesc.cuboid(x, y, z).setTranslation(...centre);
    };
    const place = (object: MapObject) => {
      const half = (object.turn * Math.PI) / 360;
      const [x, y, z] = object.position.map((v) => v * m);
      return { translation: [x, y, z] as Vec3, rotation: { x: 0, y: 0, z: Math.sin(half), w: Math.cos(half) } };
    };
    for (const [id, object] of Object.entries(map.objects)) {
      if (moving.includes(id) || !collides(world.profile, object)) continue;
      const { translation, rotation } = place(object);
      const body = physics.createRigidBody(
        rapier.RigidBodyDesc.fixed()
          .setTranslation(...translation)
          .setRotation(rotation),
      );
      physics.createCollider(cuboid(object), body);
    }
    const bodies = new Map<string, RigidBody>();
    for (const id of moving) {
      const object = map.objects[id];
      const { translation, rotation } = place(object);
      const body = physics.createRigidBody(
        rapier.RigidBodyDesc.dynamic()
          .setTranslation(...translation)
          .setRotation(rotation)
          .enabledRotations(false, false, true),
      );
      const mass = assetRecord(world, modelOf(world.profile, object))!.collision!.mass;
      physics.createCollider(cuboid(object).setMass(mass).setFriction(0.7), body);
      bodies.set(id, body);
    }
    for (let step = 0; step < LONGEST * STEPS_PER_SECOND; step++) {
      physics.step();
      if (step > 10 && [...bodies.values()].every((body) => body.isSleeping())) break;
    }
    const floor = Math.min(...colliders.map(({ box }) => box.min[2]));
    const changes = [...bodies].flatMap(([id, body]): Change[] => {
      const object = map.objects[id];
      const at = body.translation();
      const position = [at.x, at.y, at.z].map((v) => Math.round((v / m) * 1000) / 1000) as Vec3;
      const { z, w } = body.rotation();
      const turn = Math.round((((2 * Math.atan2(z, w) * 180) / Math.PI + 360) % 360) * 1000) / 1000;
      const moved = Math.hypot(...position.map((v, i) => v - object.position[i])) > 0.05 || Math.abs(turn - object.turn) > 0.1;
      if (!moved || position[2] < floor) return [];
      return [{ of: 'objects', id, to: { ...object, position, turn } }];
    });
    return changes.length > 0 ? { name: 'settle props', changes } : 'They lie still already.';
  } finally {
    physics.free();
  }
}
