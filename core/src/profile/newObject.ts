import type { MapObject, PropertyValue } from '../document/schema.ts';
import { classOf, type Profile } from './schema.ts';

/** An object of a class with the catalogue's default properties. */
export function newObject(profile: Profile, classId: string, name: string, position: [number, number, number]): MapObject {
  const objectClass = classOf(profile, classId);
  if (!objectClass) throw new Error(`no class ${classId} in profile ${profile.id}`);
  const properties: Record<string, PropertyValue> = {};
  for (const property of objectClass.properties) properties[property.id] = property.default;
  return { class: classId, name, position, turn: 0, properties };
}
