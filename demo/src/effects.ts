/** Effects of the demo crates: the game's templates as they are, but for what is said here. */

import { effectPath, writeEffect, type Effect } from '@violet-crate/core/effect/document';
import type { Profile } from '@violet-crate/core/profile/schema';

/** Files of effects by their path, each from the template of its name. */
export function effectFiles(
  profile: Profile,
  ids: readonly string[],
  changed: Record<string, (effect: Effect) => Effect> = {},
): Record<string, string> {
  return Object.fromEntries(
    ids.map((id) => {
      const { effect } = profile.effects!.templates.find((one) => one.id === id)!;
      return [effectPath(id), writeEffect(changed[id]?.(effect) ?? effect)];
    }),
  );
}

/** Drops that are heard where they fall. */
export const heardDrips = (effect: Effect): Effect => ({
  ...effect,
  emitters: effect.emitters.map((one) => (one.name === 'Drop' ? { ...one, sounds: { birth: '', death: 'sounds/drip.wav', volume: 0.12 } } : one)),
});
