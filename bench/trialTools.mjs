/**
 * Tools of a test run, each against the run itself in the same process: what measuring scripts costs, how much faster than time an
 * explorer goes, from a saved script or edit to the world that has it, and from a launch to the first line of the game.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { decodeCollision } from '@violet-crate/core/stages/pack/collisionBin';
import { Coverage, coverageCell } from '@violet-crate/core/trial/coverage';
import { explore } from '@violet-crate/core/trial/explore';
import { LiveMap } from '@violet-crate/core/trial/liveMap';
import { STILL } from '@violet-crate/core/trial/move';
import { TIME_STEP, TrialWorld } from '@violet-crate/core/trial/world';
import { localRelease } from '@violet-crate/core/release/pack';
import { GameRun, localName, placeLocal } from '@violet-crate/host/launchGame';
import { openCrate } from '../cli/dist/folder.js';
import { buildAll } from '../cli/dist/commands/build.js';

const at95 = (list) => [...list].sort((a, b) => a - b)[Math.floor(list.length * 0.95)];

export async function trialTools() {
  const data = mkdtempSync(join(tmpdir(), 'trial-tools-'));
  execFileSync(process.execPath, [fileURLToPath(new URL('../demo/dist/main.js', import.meta.url)), data]);
  const game = join(data, 'games/brinewick');
  const open = openCrate(join(data, 'crates/pumphouse'), game);
  const built = (await buildAll(open, { quality: 'draft' }, () => {})).get('pumphouse');
  const file = (name) => built.artefacts.get(`maps/pumphouse/${name}`);
  const { profile, crate } = open.world;
  const map = JSON.parse(new TextDecoder().decode(file('map.json')));
  const inputs = { profile, map, collision: decodeCollision(file('collision.bin')), scripts: crate.scripts };

  const world = await TrialWorld.begin(inputs);
  const time = (work) => {
    const from = performance.now();
    work();
    return performance.now() - from;
  };
  const step =
    time(() => {
      for (let i = 0; i < 600; i++) world.step(STILL);
    }) / 600;

  const measured = await TrialWorld.begin(inputs, { coverage: new Coverage(coverageCell(profile)), measured: true });
  const cost = (of) => {
    of.step(STILL);
    return time(() => of.scripts.evaluate('local n = 0 for i = 1, 20000 do n = n + i end return n'));
  };
  cost(world);
  cost(measured);
  console.log(`scripts measured: ${(cost(measured) / cost(world)).toFixed(1)} times the time of the same lines unmeasured`);

  const seconds = 20;
  const found = await explore(inputs, { seconds, seed: 1 });
  console.log(
    `explorer: ${(found.states / seconds).toFixed(1)} states and ${(found.simulated / seconds).toFixed(0)} s of the game per second; ${found.won ? 'won' : 'did not win'}; one step alone ${(TIME_STEP / (step / 1000)).toFixed(0)} times as fast as time`,
  );

  const scripts = Array.from({ length: 40 }, (_, i) =>
    time(() => world.scripts.reload({ 'scripts/main.lua': `${crate.scripts['scripts/main.lua']}\n-- ${i}` })),
  );
  console.log(`a changed script is in the world after ${at95(scripts).toFixed(1)} ms (95th percentile), ${(at95(scripts) / step).toFixed(0)} steps`);

  const live = new LiveMap(map, inputs.collision);
  live.follow(open.world);
  const edits = { objects: [], solids: [] };
  const now = crate.maps.pumphouse;
  const [bench] = Object.entries(now.objects).find(([, object]) => object.name === 'bench_1');
  const [wall] = Object.keys(now.solids);
  for (let i = 1; i <= 40; i++) {
    for (const kind of ['objects', 'solids']) {
      const member = now[kind][kind === 'objects' ? bench : wall];
      const moved =
        kind === 'objects'
          ? { ...member, position: [member.position[0] + i, member.position[1], member.position[2]] }
          : { ...member, faces: member.faces.map((face) => ({ ...face, distance: face.distance + face.normal[0] * i * 0.25 })) };
      const next = {
        ...open.world,
        crate: { ...crate, maps: { ...crate.maps, pumphouse: { ...now, [kind]: { ...now[kind], [kind === 'objects' ? bench : wall]: moved } } } },
      };
      edits[kind].push(
        time(() => {
          const change = live.follow(next);
          if (change) world.edit(change.edit);
          world.step(STILL);
        }),
      );
    }
  }
  console.log(
    `an edit is in the world after ${at95(edits.objects).toFixed(1)} ms for an object, ${at95(edits.solids).toFixed(1)} ms for a solid (95th percentile; targets 200 and 1000, with the way through the server)`,
  );

  const artefacts = new Map(built.artefacts);
  const from = performance.now();
  placeLocal(profile, game, await localRelease({ world: open.world, artefacts, readFile: open.readFile }));
  const first = await new Promise((resolve) => {
    const run = new GameRun(
      { profile, game, mod: localName(crate.manifest.name), map: 'pumphouse' },
      {
        line: () => {
          resolve(performance.now() - from);
          void run.quit();
        },
        ended: () => {},
      },
    );
  });
  const bare = time(() => execFileSync(process.execPath, ['-e', 'console.log(1)']));
  console.log(
    `launch: ${first.toFixed(0)} ms from the click to the first line of the log; a bare Node.js says its first after ${bare.toFixed(0)} ms`,
  );
  world.stop();
  measured.stop();
  rmSync(data, { recursive: true, force: true });
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await trialTools();
