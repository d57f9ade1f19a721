import { isGone } from './objects.ts';
import type { TrialWorld } from './world.ts';

/**
 * A hash of everything in a running world that is not in its scripts: where the player and all things are, what their
 * parts and properties are. Eight hexadecimal digits: FNV-1a of 32 bits (Fowler, Noll and Vo; offset
 * basis and prime from memory) over its text; numbers are written so that they read back to the bit (ECMA-262, Number::toString).
 */
export function stateHash(world: TrialWorld): string {
  const { feet, velocity, onGround, climbing, flying, crouching, swimming } = world.walker;
  let hash = fnv(
    0x811c9dc5,
    JSON.stringify([world.time, world.ended, world.health, feet, velocity, onGround, climbing, flying, crouching, swimming]),
  );
  const { now, mind } = world.talking;
  if (now || mind.flags.size > 0) hash = fnv(hash, JSON.stringify([now, [...mind.flags].sort(), mind.values, mind.items]));
  for (const { item, state } of world.vehicles) hash = fnv(hash, JSON.stringify([item.id, state]));
  for (const { index, walker } of world.players) if (index > 0) hash = fnv(hash, JSON.stringify([index, walker.feet, walker.velocity]));
  for (const item of world.objects)
    hash = fnv(hash, JSON.stringify([item.id, item.properties, world.objects.poseOf(item), isGone(item), item.parts.map(({ life }) => life.state)]));
  return (hash >>> 0).toString(16).padStart(8, '0');
}

function fnv(start: number, text: string): number {
  let hash = start;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    hash = Math.imul(hash ^ (code & 0xff), 0x01000193);
    if (code > 0xff) hash = Math.imul(hash ^ (code >> 8), 0x01000193);
  }
  return hash;
}
