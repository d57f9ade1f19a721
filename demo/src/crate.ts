/** The demo crate *Pumphouse at Low Tide*: manifest, map, script, and one model of its own. */

import { writeDocuments } from '@violet-crate/core/crate/contents';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { enterAsset, importAsset } from '@violet-crate/core/importing/importAsset';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import type { Profile } from '@violet-crate/core/profile/schema';
import { pumphouseData } from './people.ts';
import { pump } from './models.ts';
import { blend, fractal, shade, step } from './noise.ts';
import { pumphouseMap } from './pumphouse.ts';
import { withPicture } from './pictures.ts';
import { paintTexture } from './textures.ts';

const SCRIPT = `-- Pumphouse at Low Tide: a crank, a sluice, three lamps in order.

local order = { "gallery_lamp_1", "gallery_lamp_2", "gallery_lamp_3" }
local lit = 0
local turns = 0

function startup()
  say("The tide is out. Find the crank and open the low sluice.")
end

function crank_turned()
  turns = turns + 1
  if not recall("outwitted") then
    say("A chain holds the crank. The keeper beside it shakes her head.")
  elseif get("sluice", "raised") == 0 then
    say("The chain bites. Somewhere below, the sluice rises.")
  else
    say("The crank turns freely: the sluice is open.")
  end
end

-- Called by the talk with the keeper, once she was outwitted.
function free_crank()
  fire("crank_chain", "open")
end

function cellar_drained()
  say("The cellar has drained. The way through the tunnel is free.")
end

function entered_cellar()
  if get("flood", "level") > 0 then
    say("Knee-deep and cold. It would be better to drain this first.")
  end
end

function entered_gallery()
  say("The lamp gallery. Light the lamps from west to east.")
end

local function douse_all()
  for _, name in ipairs(order) do
    fire(name, "douse")
  end
  lit = 0
end

-- The signal's value is the ordinal of the lamp that was touched.
function lamp_touched(value)
  local ordinal = tonumber(value)
  if ordinal ~= lit + 1 then
    say("A draught runs along the gallery, and every flame goes out.")
    douse_all()
    return
  end
  lit = ordinal
  fire(order[ordinal], "light")
  say("Lamp " .. ordinal .. " burns.")
  if lit == #order then
    after(2, function()
      fire("goal", "complete")
    end)
  end
end
`;

/** Runs for the lamp in the hall alone. */
const LAMP_PATH = 'scripts/handlamp.lua';
const LAMP_SCRIPT = `-- The hand lamp: of no use without the oil of the gallery.

function on_taken()
  if get("oil", "taken") == 1 then
    say("Filled and trimmed. It will burn all night.")
  else
    say("A good lamp, but dry. The keeper hides oil somewhere.")
  end
end
`;

/** Glazed tiles with a lamplighter's mark: the crate's own texture. */
const markTile = () =>
  paintTexture((u, v) => {
    const [x, y] = [(u * 2) % 1, (v * 2) % 1];
    const joint = step(0, 0.03, Math.min(x, 1 - x, y, 1 - y));
    const r = Math.hypot(x - 0.5, y - 0.5);
    const flame = step(0.02, 0, Math.abs(r - 0.28)) + step(0.02, 0, Math.abs(x - 0.5) + Math.max(0, 0.2 - y) * 2);
    const glaze = fractal(u, v, 12, 7, 3);
    return shade(blend([222, 210, 186], [96, 62, 128], Math.min(1, flame)), (0.85 + glaze * 0.2) * (0.5 + 0.5 * joint));
  });

export async function pumphouseCrate(profile: Profile): Promise<FileTree> {
  const text = (t: string) => new TextEncoder().encode(t);
  const { obj, mtl } = pump();
  const model = await importAsset(profile, {
    file: 'pumphouse_sources/pump.obj',
    name: 'pump',
    bytes: text(obj),
    companions: new Map([['pumphouse_sources/pump.mtl', text(mtl)]]),
    options: { unit: 'm', upAxis: 'z' },
  });
  const texture = await importAsset(profile, { file: 'pumphouse_sources/keeper_tile.png', name: 'keeper_tile', bytes: markTile() });
  const map = pumphouseMap(profile);
  for (const object of Object.values(map.objects)) if (object.class === 'handlamp') object.script = LAMP_PATH;
  // The keeper's tiles cover the plinth of the pump.
  for (const solid of Object.values(map.solids)) {
    const plinth =
      solid.faces.some((f) => f.normal[2] === 1 && f.distance === 12) && solid.faces.some((f) => f.normal[0] === 1 && f.distance === 512);
    if (plinth) for (const face of solid.faces) face.material = 'keeper_tile';
  }
  const start: CrateManifest = {
    format: 1,
    name: 'pumphouse',
    title: 'Pumphouse at Low Tide',
    description:
      'A pump hall, a flooded cellar and a lamp gallery. Crank up the sluice, let the water out, and light the three lamps in the order of the tide. For one to four lamplighters, about ten minutes.',
    version: '1.0.0',
    profile: profile.id,
    mainMap: 'pumphouse',
    authors: ['Ottilie Varn'],
    credits: [{ author: 'Jorun Pell', work: 'Beam pump model', licence: 'CC-BY-4.0' }],
    licence: 'CC-BY-4.0',
    about: { tags: ['puzzle', 'co-op'], players: [1, 4], minutes: 10, difficulty: 'medium', languages: ['en'] },
    ledger: { 'models/pump.glb': { author: 'Jorun Pell', work: 'Beam pump model', licence: 'CC-BY-4.0' } },
    materials: [{ name: 'keeper_tile', type: 'lit', colour: '#808080', unitsPerRepeat: 32, roughness: 0.4, surface: 'stone' }],
    assets: {},
  };
  const manifest = [model, texture].reduce(enterAsset, start);
  const tree = writeDocuments({
    manifest,
    maps: { pumphouse: map },
    scripts: { [profile.scripts.main]: SCRIPT, [LAMP_PATH]: LAMP_SCRIPT },
    data: pumphouseData(profile),
  });
  for (const asset of [model, texture]) for (const [path, bytes] of asset.files) tree.set(path, bytes);
  return withPicture(tree, 'pumphouse');
}
