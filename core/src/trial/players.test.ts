import { describe, expect, it } from '@jest/globals';
import type { MapObject, Signal } from '../document/schema.ts';
import { made, cube } from '../testing/maps.ts';
import { trialInputs } from '../testing/trial.ts';
import { BOX_MODEL, cubeBody, movable } from '../testing/trialBodies.ts';
import type { TrialNews, TrialOrder, TrialState } from './apart.ts';
import { TrialSession } from './apart.ts';
import { STILL, type Intent } from './move.ts';
import { TrialWorld } from './world.ts';

const FLOOR = [cube([-256, -256, -512], 512)];
const east: Intent = { move: [1, 0, 0], run: false, jump: false, look: [1, 0, 0] };

function inputs(objects: Record<string, MapObject> = {}, signals: Record<string, Signal> = {}) {
  const given = trialInputs(FLOOR, { a: made('start', 'a', [0, 0, 2]), b: made('start', 'b', [0, 100, 2]), ...objects }, signals);
  given.map.bodies[BOX_MODEL] = cubeBody(20, 10);
  given.map.models[BOX_MODEL] = { min: [-10, -10, 0], max: [10, 10, 20] };
  return given;
}
const steps = (world: TrialWorld, count: number, first: Intent = STILL, guests: Record<number, Intent> = {}) => {
  for (let i = 0; i < count; i++) world.step(first, guests);
};

describe('several who play', () => {
  it('begin at a start each, walk by themselves, and are told apart', async () => {
    const world = await TrialWorld.begin(inputs());
    const guest = world.players.join('Wren');
    expect(guest).toBe(1);
    steps(world, 60, STILL, { 1: east });
    const [first, second] = world.players.walkers;
    expect(first.feet[0]).toBeCloseTo(0, 3);
    expect(second.feet[0]).toBeGreaterThan(50);
    expect(second.feet[1]).toBeCloseTo(100, 3);
    expect(world.console.lines.map(({ text }) => text)).toContain('Wren has come in.');
    world.stop();
  });

  it('are sensed, hurt and brought back one by one; who fell out as a guest ends no run', async () => {
    const world = await TrialWorld.begin(
      inputs({
        room: made('trigger', 'room', [120, 100, 0], { size: [40, 80, 60] }),
        fire: made('scald', 'fire', [120, 100, 0], { size: [40, 80, 60], harm: 20, armed: true }),
      }),
    );
    world.players.join('Wren');
    steps(world, 90, STILL, { 1: east });
    const [first, second] = [...world.players];
    expect(second.fate.health).toBeLessThan(first.fate.health!);
    expect(first.fate.health).toBe(world.profile.player.health);
    steps(world, 400, STILL, { 1: { ...east, run: true } });
    expect(world.ended).toBeNull();
    expect(world.console.lines.some(({ text }) => /back at b/.test(text))).toBe(true);
    world.stop();
  });

  it('each carry their own thing, and let go of it when they leave', async () => {
    const world = await TrialWorld.begin(inputs({ near: movable('near', [45, 0, 0]), far: movable('far', [45, 100, 0]) }));
    const guest = world.players.join('Wren');
    steps(world, 30, STILL, { 1: STILL });
    world.operate([1, 0, -0.6]);
    world.operate([1, 0, -0.6], guest);
    steps(world, 30);
    expect([...world.players].map(({ hands }) => hands!.held)).toEqual(['near', 'far']);
    world.players.leave(guest);
    expect(world.players.walkers).toHaveLength(1);
    expect(world.near(world.bodies!.boxOf('far')!).map(({ id }) => id)).toContain('far');
    expect(world.players.join('Rook')).toBe(2);
    world.stop();
  });

  it('are shown to whoever asks for the state, once they are several', async () => {
    const states: TrialState[] = [];
    const session = new TrialSession(
      (news: TrialNews) => void (news.type === 'state' && states.push(news.state)),
      (error) => {
        throw error;
      },
    );
    const take = async (order: TrialOrder) => session.take(order);
    await take({ type: 'begin', inputs: inputs() });
    expect(states.at(-1)!.players).toEqual([]);
    await take({ type: 'join', name: 'Wren' });
    await take({ type: 'advance', intents: [STILL, STILL], look: [1, 0, 0], guests: { 1: east } });
    expect(states.at(-1)!.players.map(({ index, name }) => [index, name])).toEqual([
      [0, ''],
      [1, 'Wren'],
    ]);
    await take({ type: 'leave', player: 1 });
    expect(states.at(-1)!.players).toEqual([]);
  });
});
