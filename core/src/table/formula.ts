/**
 * Formulas over the columns of a row: numbers, + − × ÷ and %, comparisons, `a ? b : c`, the functions below, and names:
 * `wits` a column, `kit.weight` a column of the row that `kit` refers to, `sum(party.wits)` over rows. Reading is jsep’s,
 * which knows no program's functions and runs nothing.
 */

import jsep, { type Expression } from 'jsep';

/** What a name is worth: a number, or numbers where it goes through a list of rows. */
export type Lookup = (path: readonly string[]) => number | readonly number[];

/** Why a formula has no value, in a sentence without its end. */
export class FormulaProblem extends Error {
  override name = 'FormulaProblem';
}

const fail = (what: string): never => {
  throw new FormulaProblem(what);
};

const MOST_NODES = 500;
const known = new Map<string, Expression>();

/** @throws FormulaProblem with what is wrong and at which character */
export function readFormula(text: string): Expression {
  const before = known.get(text);
  if (before) return before;
  let read: Expression;
  try {
    read = jsep(text);
  } catch (error) {
    const at = (error as { index?: number }).index;
    return fail(`"${text}" cannot be read${at === undefined ? '' : ` at character ${at + 1}`}`);
  }
  let nodes = 0;
  const count = (value: unknown): void => {
    if (typeof value !== 'object' || value === null) return;
    if (++nodes > MOST_NODES) fail(`"${text.slice(0, 40)}…" is too long`);
    Object.values(value).forEach(count);
  };
  count(read);
  if (known.size > 2000) known.clear();
  known.set(text, read);
  return read;
}

const one = (value: number | readonly number[]): number =>
  typeof value === 'number' ? value : fail('a list of rows stands where one number is needed; sum(…) or most(…) make one of it');

const FUNCTIONS: Record<string, (values: number[]) => number> = {
  sum: (values) => values.reduce((sum, value) => sum + value, 0),
  count: (values) => values.length,
  mean: (values) => (values.length === 0 ? 0 : values.reduce((sum, value) => sum + value, 0) / values.length),
  most: (values) => (values.length === 0 ? 0 : values.reduce((a, b) => Math.max(a, b))),
  least: (values) => (values.length === 0 ? 0 : values.reduce((a, b) => Math.min(a, b))),
  round: ([value]) => Math.round(value),
  floor: ([value]) => Math.floor(value),
  ceil: ([value]) => Math.ceil(value),
  abs: ([value]) => Math.abs(value),
  sqrt: ([value]) => Math.sqrt(value),
};
export const FORMULA_FUNCTIONS = Object.keys(FUNCTIONS);

const OPERATORS: Record<string, (a: number, b: number) => number> = {
  '+': (a, b) => a + b,
  '-': (a, b) => a - b,
  '*': (a, b) => a * b,
  '/': (a, b) => (b === 0 ? fail('it divides by 0') : a / b),
  '%': (a, b) => (b === 0 ? fail('it divides by 0') : a % b),
  '<': (a, b) => Number(a < b),
  '>': (a, b) => Number(a > b),
  '<=': (a, b) => Number(a <= b),
  '>=': (a, b) => Number(a >= b),
  '==': (a, b) => Number(a === b),
  '!=': (a, b) => Number(a !== b),
};

function pathOf(node: Expression): string[] {
  if (node.type === 'Identifier') return [String(node.name)];
  if (node.type === 'MemberExpression' && node.computed === false)
    return [...pathOf(node.object as Expression), String((node.property as Expression).name)];
  return fail('only names can stand before a point');
}

function worth(node: Expression, lookup: Lookup): number | readonly number[] {
  switch (node.type) {
    case 'Literal':
      return typeof node.value === 'number' ? node.value : fail(`${JSON.stringify(node.value)} is no number`);
    case 'Identifier':
    case 'MemberExpression':
      return lookup(pathOf(node));
    case 'UnaryExpression': {
      const value = one(worth(node.argument as Expression, lookup));
      return node.operator === '-' ? -value : node.operator === '+' ? value : fail(`"${String(node.operator)}" is no sign that formulas know`);
    }
    case 'BinaryExpression': {
      const does = Object.hasOwn(OPERATORS, String(node.operator)) ? OPERATORS[String(node.operator)] : null;
      if (!does) return fail(`"${String(node.operator)}" is no sign that formulas know`);
      return does(one(worth(node.left as Expression, lookup)), one(worth(node.right as Expression, lookup)));
    }
    case 'ConditionalExpression':
      return worth((one(worth(node.test as Expression, lookup)) !== 0 ? node.consequent : node.alternate) as Expression, lookup);
    case 'CallExpression': {
      const name = String((node.callee as Expression).name ?? '');
      if (!Object.hasOwn(FUNCTIONS, name)) return fail(`"${name}" is none of ${FORMULA_FUNCTIONS.join(', ')}`);
      const values = (node.arguments as Expression[]).flatMap((argument) => worth(argument, lookup));
      return FUNCTIONS[name](values);
    }
    default:
      return fail(`it has a ${node.type} in it, which formulas do not know`);
  }
}

/** @throws FormulaProblem where it cannot be read, a name is unknown, or there is no finite number */
export function evaluate(text: string, lookup: Lookup): number {
  const value = one(worth(readFormula(text), lookup));
  return Number.isFinite(value) ? value : fail('it comes to no finite number');
}

/** Names that a formula asks for, in the order in which they stand in it. */
export function namesIn(text: string): string[] {
  const found: string[] = [];
  const note: Lookup = (path) => {
    found.push(path.join('.'));
    return 1;
  };
  try {
    const visit = (node: Expression): void => {
      if (node.type === 'Identifier' || node.type === 'MemberExpression') return void note(pathOf(node));
      for (const [key, value] of Object.entries(node))
        if (key !== 'callee')
          for (const part of Array.isArray(value) ? value : [value])
            if (typeof part === 'object' && part !== null && Object.hasOwn(part as object, 'type')) visit(part as Expression);
    };
    visit(readFormula(text));
  } catch (error) {
    if (!(error instanceof FormulaProblem)) throw error;
  }
  return [...new Set(found)];
}
