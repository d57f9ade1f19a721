import { classOf, type Profile } from '../profile/schema.ts';
import type { MapObject, PropertyValue } from '../document/schema.ts';

/** The object with every property that names another object changed by `follow`; the same value where nothing changes. */
export function withReferences(profile: Profile, object: MapObject, follow: (id: string) => string): MapObject {
  const changed: Record<string, PropertyValue> = {};
  for (const { id, type } of classOf(profile, object.class)?.properties ?? []) {
    const value = object.properties[id];
    if (type !== 'object' || typeof value !== 'string' || value === '') continue;
    const next = follow(value);
    if (next !== value) changed[id] = next;
  }
  return Object.keys(changed).length > 0 ? { ...object, properties: { ...object.properties, ...changed } } : object;
}
