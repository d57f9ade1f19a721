/**
 * A recorded run: every input, and what came of it. Played back it gives the same world to the bit, as long as map and
 * scripts are the same; where they are not, what happened then and what happens now are compared.
 *
 * Inputs are lines of text, so that they can be read, compared and changed:
 * - `STEPS MX MY MZ KEYS LX LY LZ`: so many steps with that wish to move (thousandths), keys held (`r` run, `j` jump,
 *   `c` crouch, `-` none) and that direction of the eyes (ten thousandths)
 * - `operate LX LY LZ`, `fling LX LY LZ`, `glide`, `answer N` (in a conversation), `lua TEXT`
 */

import { Type, type Static } from '@sinclair/typebox';
import type { TrialStep } from '../document/schema.ts';
import { distance, type Vec3 } from '../math/vec3.ts';
import { UnreadableInput } from '../unreadable.ts';
import type { Intent } from './move.ts';

/** Lines of inputs that a walk may have. */
export const INPUT_LIMIT = 120_000;

const closed = { additionalProperties: false };
const Point = Type.Unsafe<Vec3>(Type.Tuple([Type.Number(), Type.Number(), Type.Number()]));

export const WalkSchema = Type.Object(
  {
    format: Type.Literal(1),
    /** Name of the map that it was recorded in. */
    map: Type.String({ maxLength: 64 }),
    /** Id of the object at which it begins; the first start of the map without it. */
    start: Type.Optional(Type.String({ maxLength: 64 })),
    inputs: Type.Array(Type.String({ maxLength: 12_000 }), { maxItems: INPUT_LIMIT }),
    /** What happened, with the second at which it did, in order. */
    marks: Type.Array(Type.Tuple([Type.Number(), Type.String({ maxLength: 1000 })]), { maxItems: 50_000 }),
    /** Where the player's feet were, every quarter of a second. */
    track: Type.Array(Point, { maxItems: 20_000 }),
    /** Of the state of the world, every second. */
    hashes: Type.Array(Type.String({ maxLength: 8 }), { maxItems: 5000 }),
    ended: Type.Union([Type.Literal('won'), Type.Literal('fell'), Type.Literal('died'), Type.Null()]),
  },
  closed,
);
export type Walk = Static<typeof WalkSchema>;

/** Steps between two points of the track, and between two hashes. */
export const TRACK_EVERY = 15;
export const HASH_EVERY = 60;
const STEPS_PER_SECOND = 60;
/** Steps that one walk may have: an hour. */
export const WALK_LIMIT = 3600 * STEPS_PER_SECOND;

/** What a player does beside walking. */
export type WalkAct = { act: 'operate' | 'fling'; look: Vec3 } | { act: 'glide' } | { act: 'answer'; choice: number } | { act: 'lua'; text: string };
export type WalkInput = { steps: number; intent: Intent } | WalkAct;

const MOVE = 1000;
const LOOK = 10_000;
const rounded = (v: Vec3, parts: number): Vec3 => v.map((c) => Math.round(c * parts) / parts + 0) as Vec3;

export const roundLook = (look: Vec3): Vec3 => rounded(look, LOOK);
/** As it is recorded: what is played back has to be what was played. */
export const roundIntent = (intent: Intent): Intent => ({
  ...intent,
  move: rounded(intent.move, MOVE),
  ...(intent.look ? { look: roundLook(intent.look) } : {}),
});

const numbers = (v: Vec3, parts: number): string => v.map((c) => Math.round(c * parts)).join(' ');

function keysOf({ run, jump, crouch }: Intent): string {
  return `${run ? 'r' : ''}${jump ? 'j' : ''}${crouch ? 'c' : ''}` || '-';
}

/** A rounded intent as text, without its number of steps. */
export const intentText = (intent: Intent): string => `${numbers(intent.move, MOVE)} ${keysOf(intent)} ${numbers(intent.look ?? [1, 0, 0], LOOK)}`;

export function actText(act: WalkAct): string {
  if (act.act === 'glide') return 'glide';
  if (act.act === 'answer') return `answer ${act.choice}`;
  if (act.act === 'lua') return `lua ${act.text}`;
  return `${act.act} ${numbers(act.look, LOOK)}`;
}

/** @throws UnreadableInput that names the line */
export function readInputs(lines: readonly string[]): WalkInput[] {
  let total = 0;
  return lines.map((line, i) => {
    const input = readInput(line);
    if (input && 'steps' in input) total += input.steps;
    if (!input || total > WALK_LIMIT)
      throw new UnreadableInput(
        'walk-input',
        input
          ? `A walk may have ${WALK_LIMIT} steps; line ${i + 1} of this one goes beyond.`
          : `Line ${i + 1} of the walk’s inputs says nothing: "${line.slice(0, 80)}".`,
        { line: i + 1 },
        'See docs/formats.md for what a line may say.',
      );
    return input;
  });
}

function readInput(line: string): WalkInput | null {
  if (line.startsWith('lua ')) return { act: 'lua', text: line.slice(4) };
  if (line === 'glide') return { act: 'glide' };
  const answer = /^answer (\d{1,3})$/.exec(line);
  if (answer) return { act: 'answer', choice: Number(answer[1]) };
  const words = line.split(' ');
  const vector = (from: number, parts: number): Vec3 | null => {
    const read = words.slice(from, from + 3).map((word) => (/^-?\d{1,6}$/.test(word) ? Number(word) / parts : NaN));
    return read.length === 3 && read.every(Number.isFinite) ? (read as Vec3) : null;
  };
  if (words[0] === 'operate' || words[0] === 'fling') {
    const look = words.length === 4 ? vector(1, LOOK) : null;
    return look && { act: words[0], look };
  }
  const [move, look] = [vector(1, MOVE), vector(5, LOOK)];
  if (words.length !== 8 || !/^\d{1,6}$/.test(words[0]) || !/^(-|r?j?c?)$/.test(words[4]) || !move || !look) return null;
  const keys = words[4];
  return { steps: Number(words[0]), intent: { move, run: keys.includes('r'), jump: keys.includes('j'), crouch: keys.includes('c'), look } };
}

export interface WalkDifference {
  /** Seconds since the start. */
  second: number;
  at: Vec3;
  message: string;
}

const pointText = (p: Vec3): string => p.map((v) => Math.round(v)).join(', ');

/**
 * The first thing that went another way, or null where the walk still works. Small shifts are allowed: a chair may have
 * been moved out of the way.
 *
 * @param slack units by which the player may be elsewhere
 */
export function compareWalks(
  then: Pick<Walk, 'marks' | 'track' | 'ended'>,
  now: Pick<Walk, 'marks' | 'track' | 'ended'>,
  slack: number,
): WalkDifference | null {
  const differences: WalkDifference[] = [];
  const told = (second: number, message: string) => {
    const at = now.track[Math.min(now.track.length - 1, Math.floor((second * STEPS_PER_SECOND) / TRACK_EVERY))] ?? [0, 0, 0];
    differences.push({ second: Math.round(second * 100) / 100, at, message });
  };
  const step = then.track.findIndex((p, i) => !now.track[i] || distance(p, now.track[i]) > slack);
  if (step >= 0 && now.track[step])
    told((step * TRACK_EVERY) / STEPS_PER_SECOND, `the player is at ${pointText(now.track[step])} and not at ${pointText(then.track[step])}`);
  // What does not depend on each other may change places; what is missing counts from where it was.
  const left = new Map<string, number[]>();
  for (const [second, text] of now.marks) left.set(text, [...(left.get(text) ?? []), second]);
  // The second of a mark may be 0.
  const missing = then.marks.find(([, text]) => left.get(text)?.shift() === undefined);
  if (missing) told(missing[0], `“${missing[1]}” did not happen`);
  const more = [...left].flatMap(([text, seconds]) => seconds.map((second) => ({ second, text }))).sort((a, b) => a.second - b.second)[0];
  if (more) told(more.second, `“${more.text}” happened, which it did not before`);
  if (then.ended !== now.ended)
    told(((now.track.length - 1) * TRACK_EVERY) / STEPS_PER_SECOND, `${ENDS[now.ended ?? 'none']}, where ${ENDS[then.ended ?? 'none']} before`);
  return differences.sort((a, b) => a.second - b.second)[0] ?? null;
}

const ENDS = { won: 'the run was won', fell: 'the player fell out of the world', died: 'the player lost all health', none: 'nothing ended the run' };

/** Distance in units from the straight way within which a corner of the track is left out. */
const CORNER = 6;

/** What was chosen in a conversation, and how a contest ended, as marks tell it. */
const SAID = /^> (.{1,200})$|: (won|lost)(?:\.| after \d+ rounds?\.)$/;

/** The walk as trial steps: straight ways between the corners of its track, with what was operated and answered in between. */
export function walkSteps({ track, marks }: Pick<Walk, 'track' | 'marks'>): TrialStep[] {
  const uses = marks.flatMap(([second, text]): { index: number; step: TrialStep }[] => {
    const index = Math.round((second * STEPS_PER_SECOND) / TRACK_EVERY);
    if (text.startsWith(USED)) return [{ index, step: { use: text.slice(USED.length) } }];
    const said = SAID.exec(text);
    return said ? [{ index, step: { answer: said[1] ?? said[2] } }] : [];
  });
  const steps: TrialStep[] = [];
  let from = 0;
  const walkUntil = (index: number) => {
    for (const point of corners(track.slice(from, index + 1))) steps.push({ walkTo: point.map((v) => Math.round(v) + 0) as Vec3 });
    from = Math.max(from, index);
  };
  for (const { index, step } of uses) {
    walkUntil(Math.min(index, track.length - 1));
    steps.push(step);
  }
  walkUntil(track.length - 1);
  return steps;
}

/** What a mark of an operated object begins with. */
export const USED = 'use ';

/** The points of a way at which it turns, and its last, by Douglas and Peucker's algorithm (1973); none where nobody moved. */
function corners(way: readonly Vec3[]): Vec3[] {
  const keep = new Set<number>();
  const pending: [number, number][] = [[0, way.length - 1]];
  for (let span = pending.pop(); span; span = pending.pop()) {
    const [a, b] = span;
    let worst = CORNER;
    let at = -1;
    for (let i = a + 1; i < b; i++) {
      const off = offLine(way[a], way[b], way[i]);
      if (off > worst) [worst, at] = [off, i];
    }
    if (at < 0) continue;
    keep.add(at);
    pending.push([a, at], [at, b]);
  }
  const last = way.at(-1);
  if (last && (keep.size > 0 || distance(way[0], last) > CORNER)) keep.add(way.length - 1);
  return [...keep].sort((a, b) => a - b).map((i) => way[i]);
}

/** Distance from the line between two points, seen from above. */
function offLine(a: Vec3, b: Vec3, p: Vec3): number {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const size = Math.hypot(dx, dy);
  if (size < 1e-9) return Math.hypot(p[0] - a[0], p[1] - a[1]);
  const t = Math.max(0, Math.min(1, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / size ** 2));
  return Math.hypot(p[0] - a[0] - dx * t, p[1] - a[1] - dy * t);
}
