import type { Solid } from '../../document/schema.ts';

/** A solid as its planes alone. */
export const formOf = ({ faces }: Solid): Solid => ({ faces: faces.map(({ normal, distance }) => ({ normal, distance, material: '' })) });

/** The named members of a value, those that it has. */
export const pick = <T extends object, K extends keyof T>(value: T, ...keys: readonly K[]): Pick<T, K> =>
  Object.fromEntries(keys.flatMap((key) => (value[key] === undefined ? [] : [[key, value[key]]]))) as Pick<T, K>;
