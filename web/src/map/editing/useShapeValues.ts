import { shapeById, type ShapeValues } from '@violet-crate/core/solid/shapes';
import type { Profile } from '@violet-crate/core/profile/schema';
import { useAppSelector } from '../../state/store.ts';

/** The numbers with which a shape is drawn next: those last used, else the game's defaults. */
export function useShapeValues(shape: string): ShapeValues {
  const profile = useAppSelector((s) => s.crate.profile) as Profile;
  const used = useAppSelector((s) => s.view.shapeValues[`${profile.id}/${shape}`]);
  return { ...shapeById(shape).defaults(profile), ...used };
}
