/** Values of cells as people type them, and back. What cannot be one is refused with the reason. */

import type { CellValue } from './document.ts';
import type { Column } from './schema.ts';

/** Between the members of flags and rows, as typed and in CSV. */
const BETWEEN = /\s*[;,]\s*/;

export function cellWords(value: CellValue): string {
  if (value === null) return '';
  return typeof value === 'object' ? value.join('; ') : String(value);
}

/** What a text means in a column. Ranges are findings, not refusals: half-way there, values may be wrong. */
export function readCell(column: Column, text: string): { value: CellValue } | { problem: string } {
  const plain = text.trim();
  switch (column.type) {
    case 'number': {
      // A comma between digits is how half of the world writes a fraction.
      const number = Number(/^-?\d+,\d+$/.test(plain) ? plain.replace(',', '.') : plain);
      return plain !== '' && Number.isFinite(number) ? { value: number } : { problem: `"${text}" is no number` };
    }
    case 'text':
      return { value: text };
    case 'choice':
      return named(column, plain);
    case 'flags': {
      const found = plain === '' ? [] : plain.split(BETWEEN).map((word) => named(column, word));
      const wrong = found.find((one) => 'problem' in one);
      if (wrong) return wrong;
      const on = new Set(found.map((one) => (one as { value: string }).value));
      return { value: (column.choices ?? []).flatMap(({ id }) => (on.has(id) ? [id] : [])) };
    }
    case 'rows':
      return { value: plain === '' ? [] : plain.split(BETWEEN).filter((key) => key !== '') };
    case 'formula':
      return { problem: `${column.label} is worked out` };
    default:
      return { value: plain === '' ? null : plain };
  }
}

/** By id or by label, in any case. */
function named({ choices = [], label }: Column, word: string): { value: string } | { problem: string } {
  const wanted = word.toLowerCase();
  const found = choices.find((choice) => choice.id === wanted) ?? choices.find((choice) => choice.label.toLowerCase() === wanted);
  return found
    ? { value: found.id }
    : {
        problem: `"${word}" is none of ${label}: ${choices
          .slice(0, 8)
          .map((choice) => choice.id)
          .join(', ')}${choices.length > 8 ? ' …' : ''}`,
      };
}

/** What is wrong with a value by its column alone, each in words that go on from the column’s name. */
export function cellProblems(column: Column, value: CellValue): { code: string; words: string; set?: CellValue }[] {
  const { least, most } = column;
  switch (column.type) {
    case 'number': {
      if (typeof value !== 'number') return [{ code: 'record-kind', words: 'has to be a number' }];
      const unit = column.unit ? ` ${column.unit}` : '';
      if (least !== undefined && value < least)
        return [{ code: 'record-range', words: `is ${value}${unit}; it has to be ${least} at least`, set: least }];
      if (most !== undefined && value > most) return [{ code: 'record-range', words: `is ${value}${unit}; it may be ${most} at most`, set: most }];
      return column.whole && !Number.isInteger(value)
        ? [{ code: 'record-range', words: `is ${value}; it has to be whole`, set: Math.round(value) }]
        : [];
    }
    case 'text': {
      if (typeof value !== 'string') return [{ code: 'record-kind', words: 'has to be a text' }];
      const letters = [...value];
      const found = [];
      if (most !== undefined && letters.length > most)
        found.push({ code: 'record-text-long', words: `has ${letters.length} characters; the game shows ${most}` });
      if (column.needed && value === '') found.push({ code: 'record-empty', words: 'is empty' });
      const lacks = column.letters === undefined ? [] : [...new Set(letters.filter((letter) => !column.letters!.includes(letter)))];
      if (lacks.length > 0)
        found.push({
          code: 'record-letters',
          words: `has ${lacks
            .slice(0, 5)
            .map((letter) => `"${letter}"`)
            .join(', ')}, which the game cannot show`,
        });
      return found;
    }
    case 'choice':
      return column.choices?.some(({ id }) => id === value)
        ? []
        : [{ code: 'record-choice', words: `is "${cellWords(value)}", which the game does not know` }];
    case 'flags': {
      if (!Array.isArray(value)) return [{ code: 'record-kind', words: 'has to be a list of flags' }];
      const unknown = (value as string[]).filter((bit) => !column.choices?.some(({ id }) => id === bit));
      return unknown.length === 0
        ? []
        : [
            {
              code: 'record-flags',
              words: `has the unknown ${unknown.length === 1 ? 'flag' : 'flags'} ${unknown.join(', ')}`,
              set: (value as string[]).filter((bit) => !unknown.includes(bit)),
            },
          ];
    }
    case 'rows': {
      if (!Array.isArray(value)) return [{ code: 'record-kind', words: 'has to be a list of rows' }];
      if (least !== undefined && value.length < least)
        return [
          {
            code: 'record-few',
            words: value.length === 0 ? `is empty; it needs ${least} at least` : `has ${value.length}; it needs ${least} at least`,
          },
        ];
      // One too many overwrites what comes after it in many games.
      return most !== undefined && value.length > most
        ? [
            {
              code: 'record-many',
              words: `has ${value.length}; there is room for ${most}, and what is too much overwrites its neighbour`,
              set: (value as string[]).slice(0, most),
            },
          ]
        : [];
    }
    case 'reference':
      return column.needed && value === null ? [{ code: 'record-empty', words: 'is empty' }] : [];
    default:
      return [];
  }
}
