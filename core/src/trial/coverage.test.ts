import { describe, expect, it } from '@jest/globals';
import { made, cube } from '../testing/maps.ts';
import { testProfile } from '../testing/world.ts';
import { trialInputs } from '../testing/trial.ts';
import type { Vec3 } from '../math/vec3.ts';
import { Coverage, coverageFindings, coverageSummary, floorFindings, floorWalked, linesCovered } from './coverage.ts';
import { STILL } from './move.ts';
import { TrialWorld } from './world.ts';

const SCRIPT = `local n = 0
function turned()
  n = n + 1
  if n > 10 then
    say("many")
  end
end
function never()
  say("never")
end
`;
const inputs = () =>
  trialInputs(
    [cube([-64, -64, -128], 128)],
    {
      start: made('start', 'start', [0, 0, 2]),
      crank: made('crank', 'crank', [40, 0, 0]),
      idle: made('crank', 'idle', [0, 40, 0]),
      room: made('trigger', 'room', [0, 0, 0], { size: [60, 60, 60] }),
      away: made('trigger', 'away', [900, 0, 0], { size: [60, 60, 60] }),
    },
    {
      s1: { from: 'crank', event: 'turned', to: { script: 'turned' }, delay: 0 },
      s2: { from: 'away', event: 'entered', to: { script: 'turned' }, delay: 0 },
    },
    SCRIPT,
  );

async function run(): Promise<Coverage> {
  const coverage = new Coverage(22);
  const world = await TrialWorld.begin(inputs(), { coverage, measured: true });
  for (let i = 0; i < 60; i++) world.step(STILL);
  world.use(world.objects.named('crank')!);
  world.use(world.objects.named('crank')!);
  world.stop();
  return coverage;
}

describe('coverage', () => {
  it('notes what was operated, entered and sent, and which lines and functions ran how often', async () => {
    const data = (await run()).data();
    expect(data).toMatchObject({ used: { crank: 2 }, entered: { room: 1 }, sent: { s1: 2 } });
    expect(data.calls.find(({ line }) => line === 2)).toMatchObject({ file: 'scripts/main.lua', count: 2 });
    expect(data.lines.find(({ line }) => line === 3)?.count).toBe(2);
    expect(data.lines.some(({ line }) => line === 5 || line === 9)).toBe(false);
    expect(data.time.reduce((sum, [, , , seconds]) => sum + seconds, 0)).toBeCloseTo(1, 2);
  });

  it('says what never happened, each with its place', async () => {
    const data = (await run()).data();
    const { map, scripts } = inputs();
    const findings = coverageFindings(testProfile(), 'hall', map, scripts, data);
    expect(findings.map(({ code, place }) => [code, place?.object ?? place?.line])).toEqual([
      ['never-used', 'idle'],
      ['never-entered', 'away'],
      ['never-sent', 'away'],
      ['never-called', 8],
    ]);
    expect(coverageSummary(testProfile(), map, scripts, data)).toEqual({
      objects: [1, 2],
      signals: [1, 2],
      volumes: [1, 2],
      functions: [1, 2],
      lines: [3, 5],
    });
  });

  it('adds up over runs', async () => {
    const [a, b] = [await run(), await run()];
    a.add(b.data());
    expect(a.data()).toMatchObject({ used: { crank: 4 }, sent: { s1: 4 } });
    expect(a.data().lines.find(({ line }) => line === 3)?.count).toBe(4);
  });

  it('says how much of the floor was walked, and which floors nobody was on', () => {
    const square = (x: number, z: number): Vec3[] => [
      [x, 0, z],
      [x + 100, 0, z],
      [x + 100, 100, z],
      [x, 100, z],
    ];
    const ground = {
      vertices: [...square(0, 0), ...square(100, 0), ...square(0, 200), ...square(500, 0)],
      polygons: [0, 4, 8, 12].map((first, i) => ({
        corners: [first, first + 1, first + 2, first + 3],
        neighbours: [-1, i === 0 ? 1 : i === 1 ? 0 : -1, -1, -1],
      })),
    };
    const coverage = new Coverage(22);
    coverage.stay([50, 50, 0], 1);
    expect(floorWalked(ground, coverage.data())).toEqual([10_000, 40_000]);
    expect(floorFindings('hall', ground, coverage.data()).map(({ place }) => place?.point)).toEqual([
      [50, 50, 200],
      [550, 50, 0],
    ]);
  });

  it('counts a statement by any of its lines, and no line that holds none', () => {
    const source = 'local a =\n  1\n-- words\nif a then\n  a = 2\nelseif b then\n  a = 3\nend\n';
    const { able, ran } = linesCovered('x.lua', source, [
      { file: 'x.lua', line: 2, count: 1, seconds: 0 },
      { file: 'x.lua', line: 4, count: 3, seconds: 0 },
    ]);
    expect(able).toEqual([1, 4, 5, 6, 7]);
    expect([...ran]).toEqual([
      [1, 1],
      [4, 3],
    ]);
  });
});
