import { describe, expect, it } from '@jest/globals';
import type { MapObject } from '../document/schema.ts';
import { checkCrate } from '../check/checkCrate.ts';
import { renameAsset } from '../library/rename.ts';
import { made, cube } from '../testing/maps.ts';
import { trialInputs } from '../testing/trial.ts';
import { testWorld } from '../testing/world.ts';
import { TrialWorld } from './world.ts';

const LAMP = 'scripts/flicker.lua';
const SOURCE = `touches = 0
function on_turned()
  touches = touches + 1
  say(self.name .. " " .. touches)
  if touches == 2 then self:set("stiff", true) end
end`;
const crank = (name: string, x: number, script?: string): MapObject => ({ ...made('crank', name, [x, 0, 0]), ...(script ? { script } : {}) });
const inputs = (scripts: Record<string, string> = { [LAMP]: SOURCE, 'scripts/main.lua': 'touches = 100' }) =>
  trialInputs(
    [cube([-64, -64, -128], 128)],
    { start: made('start', 'start', [0, 0, 2]), a: crank('a', 30, LAMP), b: crank('b', -30, LAMP), c: crank('c', 0) },
    {},
    scripts,
  );
const said = (world: TrialWorld) => world.console.lines.filter(({ kind }) => kind === 'say').map(({ text }) => text);
const use = (world: TrialWorld, name: string) => world.use(world.objects.named(name)!);

describe('a script of one object', () => {
  it('sees its object as self, keeps its own values, and is called at its events only', async () => {
    const world = await TrialWorld.begin(inputs());
    for (const name of ['a', 'a', 'b', 'c']) use(world, name);
    expect(said(world)).toEqual(['a 1', 'a 2', 'b 1']);
    expect(world.objects.named('a')!.properties.stiff).toBe(true);
    expect(world.scripts.worth('touches')).toBe('100');
    expect(world.scripts.memory()).toContain('a.touches=2');
    world.stop();
  });

  it('is loaded anew for each, with what they had counted; a syntax error leaves the old one', async () => {
    const world = await TrialWorld.begin(inputs());
    use(world, 'a');
    world.scripts.reload({ [LAMP]: SOURCE.replace('say(self', 'say("now " .. self') });
    use(world, 'a');
    world.scripts.reload({ [LAMP]: 'function (' });
    use(world, 'a');
    expect(said(world)).toEqual(['a 1', 'now a 2', 'now a 3']);
    world.stop();
  });

  it('is taken, changed and dropped with edits of the map', async () => {
    const world = await TrialWorld.begin(inputs());
    const edit = (id: string, object: MapObject) =>
      world.edit({ objects: { [id]: object }, anew: false, solids: {}, signals: null, paths: null, models: {}, bodies: {}, left: [] } as never);
    edit('c', crank('c', 0, LAMP));
    use(world, 'c');
    edit('a', crank('a', 30));
    use(world, 'a');
    expect(said(world)).toEqual(['c 1']);
    world.stop();
  });

  it('one that fails says where, and where it is missing, that', async () => {
    const world = await TrialWorld.begin(inputs({ [LAMP]: 'function on_turned()\n  nothing()\nend' }));
    use(world, 'a');
    expect(world.findings[0]).toMatchObject({ code: 'script-error', place: { file: LAMP, line: 2 } });
    world.stop();
    const without = await TrialWorld.begin(inputs({}));
    expect(without.console.lines.map(({ text }) => text)).toContain(`a: there is no script ${LAMP}`);
    without.stop();
  });

  it('is checked against the events of its objects, and follows a renaming', () => {
    const world = testWorld();
    const { maps, scripts } = world.crate;
    scripts[LAMP] = `${SOURCE}\nfunction on_lit() end`;
    maps.hall = { ...maps.hall, objects: { ...maps.hall.objects, a: crank('a', 0, LAMP), b: crank('b', 40, 'scripts/gone.lua') } };
    const { findings } = checkCrate(world);
    const codes = findings.map(({ code, place }) => [code, place?.object ?? place?.line]);
    expect(codes).toContainEqual(['script-event', 7]);
    expect(codes).toContainEqual(['object-script-missing', 'b']);
    expect(codes.filter(([code]) => code === 'script-uncalled' || code === 'script-global')).toEqual([]);
    const { edits } = renameAsset(world, LAMP, 'glow');
    expect(edits.hall.changes.find((change) => change.of === 'objects' && change.id === 'a')).toMatchObject({ to: { script: 'scripts/glow.lua' } });
  });
});
