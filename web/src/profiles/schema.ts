/** What the form of a profile needs to know of a JSON Schema, and values made of one. */

import type { TSchema } from '@sinclair/typebox';

/** A JSON value. */
export type Json = null | boolean | number | string | Json[] | { [key: string]: Json };
export type JsonRecord = { [key: string]: Json };

/** A schema as far as the form reads it. */
export interface Known {
  type?: string;
  properties?: Record<string, TSchema>;
  patternProperties?: Record<string, TSchema>;
  required?: string[];
  /** Of an array; several for one of a fixed length. */
  items?: TSchema | TSchema[];
  anyOf?: TSchema[];
  const?: string;
  description?: string;
  minimum?: number;
  maximum?: number;
}

export const known = (schema: TSchema): Known => schema as unknown as Known;
export const isRecord = (value: Json | undefined): value is JsonRecord => typeof value === 'object' && value !== null && !Array.isArray(value);

/** The words that a value is one of; null where it is something else. */
export function choicesOf(schema: TSchema): string[] | null {
  const { anyOf } = known(schema);
  return anyOf?.every((one) => typeof known(one).const === 'string') ? anyOf.map((one) => known(one).const!) : null;
}

/** "maxTriangles" as people read it. */
export function words(name: string): string {
  const spaced = name.replaceAll(/([a-z0-9])([A-Z])/g, (_, a: string, b: string) => `${a} ${b.toLowerCase()}`);
  return spaced === '' ? '' : spaced[0].toUpperCase() + spaced.slice(1);
}

/** The least that a value of a schema has: what is required, with nothing in it yet. */
export function blankOf(schema: TSchema): Json {
  const { type, properties, required = [], items, anyOf, const: only, minimum } = known(schema);
  if (only !== undefined) return only;
  if (anyOf) return blankOf(anyOf[0]);
  if (type === 'object') return Object.fromEntries(required.map((key) => [key, blankOf(properties![key])]));
  if (type === 'array') return Array.isArray(items) ? items.map(blankOf) : [];
  if (type === 'boolean') return false;
  if (type === 'number' || type === 'integer') return Math.max(0, minimum ?? 0);
  return '';
}

/** The form of several that a record has: the first whose required members it has, as they have to be. */
export function variantOf(variants: readonly TSchema[], value: Json | undefined): number {
  const fits = (variant: TSchema) => {
    const { properties = {}, required = [] } = known(variant);
    return (
      isRecord(value) &&
      required.every(
        (key) => Object.hasOwn(value, key) && (known(properties[key]).const === undefined || known(properties[key]).const === value[key]),
      )
    );
  };
  return variants.findIndex(fits);
}

/** What sets a form apart from its neighbours: its fixed words, or else the members that it has. */
export function variantWords(variant: TSchema): string {
  const { properties = {}, required = [] } = known(variant);
  const fixed = required.flatMap((key) => known(properties[key]).const ?? []);
  return fixed.length > 0 ? fixed.join(', ') : required.map((key) => words(key).toLowerCase()).join(', ');
}

/** Puts a value into a document along a path of members and places; undefined takes it out. */
export function put(document: Json | undefined, [key, ...rest]: readonly string[], value: Json | undefined): Json {
  if (Array.isArray(document)) {
    const at = Number(key);
    const next = rest.length > 0 ? put(document[at], rest, value) : value;
    return next === undefined ? document.filter((_, i) => i !== at) : [...document.slice(0, at), next, ...document.slice(at + 1)];
  }
  const record = isRecord(document) ? { ...document } : {};
  const next = rest.length > 0 ? put(record[key], rest, value) : value;
  if (next === undefined) delete record[key];
  else record[key] = next;
  return record;
}
