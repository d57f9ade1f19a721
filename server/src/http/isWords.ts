import { ValidateBy } from 'class-validator';

/** Characters that a word may have. */
const LONGEST = 300;

/** An object whose members are short texts: at most so many, of given keys and values where those are listed. */
export function IsWords({ keys, values, most }: { keys?: readonly string[]; values?: readonly string[]; most: number }): PropertyDecorator {
  const problem = (given: unknown): string | null => {
    if (typeof given !== 'object' || given === null || Array.isArray(given)) return 'has to be an object';
    const entries = Object.entries(given);
    if (entries.length > most) return `has ${entries.length} members; at most ${most} are taken`;
    for (const [key, value] of entries) {
      if (key.length > LONGEST * 4 || (keys && !keys.includes(key))) return `has no member "${key.slice(0, 60)}"`;
      if (typeof value !== 'string' || value.length > LONGEST) return `${key.slice(0, 60)} has to be a text of at most ${LONGEST} characters`;
      if (values && !values.includes(value)) return `${key.slice(0, 60)} has to be one of ${values.join(', ')}`;
    }
    return null;
  };
  return ValidateBy({
    name: 'isWords',
    validator: { validate: (value) => problem(value) === null, defaultMessage: (given) => `${given?.property} ${problem(given?.value) ?? ''}` },
  });
}
