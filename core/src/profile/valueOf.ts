import type { MapObject, PropertyValue } from '../document/schema.ts';
import { classOf, type Profile } from './schema.ts';

/** A property of an object as it counts: its own, or the one that its class begins with, as objects in prefabs often leave it. */
export const valueOf = (
  profile: Profile,
  { class: of, properties }: Pick<MapObject, 'class' | 'properties'>,
  property: string,
): PropertyValue | undefined =>
  properties[property] ?? (classOf(profile, of)?.properties.find(({ id }) => id === property)?.default as PropertyValue | undefined);
