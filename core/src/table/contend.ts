/** A contest between two rows by a profile’s model, and what it takes to win it: played many times, the same with the same seed. */

import { chance } from '../math/chance.ts';
import type { Row } from './document.ts';
import { evaluate, FormulaProblem, type Lookup } from './formula.ts';
import type { ContestModel, Table } from './schema.ts';
import type { Tables } from './tables.ts';

/** One side: its strength, and each try of it. Points are whole where both bounds are. */
export interface Side {
  strength: number;
  /** 0 to 1. */
  chance: number;
  least: number;
  most: number;
}

export interface Contest {
  won: boolean;
  rounds: number;
  /** What is left of the challenger’s strength, and of the other’s. */
  left: readonly [number, number];
}

/** Both sides of a contest as numbers. @throws FormulaProblem where the model does not fit the rows */
export function sidesOf(tables: Tables, table: Table, model: ContestModel, challenger: Row, other: Row): readonly [Side, Side] {
  const side = (mine: Row, theirs: Row): Side => {
    const lookup: Lookup = ([of, id, ...rest]) => {
      if ((of !== 'mine' && of !== 'theirs') || id === undefined || rest.length > 0)
        throw new FormulaProblem(`"${[of, id, ...rest].filter(Boolean).join('.')}" is neither mine.COLUMN nor theirs.COLUMN`);
      return tables.number(table, of === 'mine' ? mine : theirs, id);
    };
    const worth = (formula: string) => evaluate(formula, lookup);
    return {
      strength: tables.worth(table, mine, model.strength),
      chance: Math.max(0, Math.min(1, worth(model.chance))),
      least: worth(model.least),
      most: worth(model.most),
    };
  };
  return [side(challenger, other), side(other, challenger)];
}

/** @param random 0 to below 1, asked twice a try */
export function contend([challenger, other]: readonly [Side, Side], rounds: number, random: () => number): Contest {
  const left: [number, number] = [challenger.strength, other.strength];
  const sides = [challenger, other];
  for (let round = 1; round <= rounds; round++)
    for (const who of [0, 1] as const) {
      const { chance: share, least, most } = sides[who];
      const [tried, points] = [random(), random()];
      if (tried >= share) continue;
      const whole = Number.isInteger(least) && Number.isInteger(most);
      left[1 - who] -= whole ? least + Math.floor(points * (most - least + 1)) : least + points * (most - least);
      if (left[1 - who] <= 0) return { won: who === 0, rounds: round, left };
    }
  return { won: false, rounds, left };
}

export interface Balance {
  /** Share of contests that the challenger wins. */
  won: number;
  /** Mean of the rounds until it is over, with the error of that mean (one standard error). */
  rounds: number;
  error: number;
  /** How many ended after each number of rounds, from 1. */
  ended: Uint32Array;
  played: number;
}

export const MOST_PLAYED = 20_000;

export function balance(sides: readonly [Side, Side], rounds: number, played: number, seed: number): Balance {
  const random = chance(seed);
  const ended = new Uint32Array(rounds);
  let [won, sum, squares] = [0, 0, 0];
  for (let i = 0; i < played; i++) {
    const contest = contend(sides, rounds, random);
    if (contest.won) won++;
    sum += contest.rounds;
    squares += contest.rounds ** 2;
    ended[contest.rounds - 1]++;
  }
  const mean = sum / played;
  const variance = played > 1 ? Math.max(0, squares - played * mean ** 2) / (played - 1) : 0;
  return { won: won / played, rounds: mean, error: Math.sqrt(variance / played), ended, played };
}
