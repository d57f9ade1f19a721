/** The demo crate *Pumphouse at Low Tide*: manifest, map, script, and one model of its own. */

import { convertModel } from '@violet-crate/core/asset/mesh/convert';
import { convertTexture } from '@violet-crate/core/asset/texture/convert';
import { writeDocuments, type FileTree } from '@violet-crate/core/crate/contents';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import type { Profile } from '@violet-crate/core/profile/schema';
import { pump } from './models.ts';
import { blend, fractal, shade, step } from './noise.ts';
import { pumphouseMap } from './pumphouse.ts';
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
  if turns == 1 then
    say("The chain bites. Somewhere below, the sluice rises.")
  else
    say("The crank turns freely: the sluice is open.")
  end
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
  const tile = markTile();
  const options = { unit: 'm', upAxis: 'z' as const };
  const model = await convertModel(profile, 'pump.obj', text(obj), options, new Map([['pump.mtl', text(mtl)]]));
  const texture = await convertTexture(profile, 'keeper_tile.png', tile);
  const map = pumphouseMap(profile);
  // The keeper's tiles cover the plinth of the pump.
  for (const solid of Object.values(map.solids)) {
    const plinth =
      solid.faces.some((f) => f.normal[2] === 1 && f.distance === 12) && solid.faces.some((f) => f.normal[0] === 1 && f.distance === 512);
    if (plinth) for (const face of solid.faces) face.material = 'keeper_tile';
  }
  const manifest: CrateManifest = {
    format: 1,
    name: 'pumphouse',
    title: 'Pumphouse at Low Tide',
    description:
      'A pump hall, a flooded cellar and a lamp gallery. Crank up the sluice, let the water out, and light the three lamps in the order of the tide. For one to four lamplighters, about ten minutes.',
    version: '1.0.0',
    profile: profile.id,
    mainMap: 'pumphouse',
    authors: ['Ottilie Varn'],
    credits: [{ author: 'Jorun Pell', work: 'Beam pump model', licence: 'CC BY 4.0' }],
    materials: [{ name: 'keeper_tile', type: 'lit', texture: 'textures/keeper_tile.ktx2', colour: texture.colour, unitsPerRepeat: 32 }],
    assets: {
      'models/pump.glb': { source: 'sources/pump.obj', options: { ...model.options }, bounds: model.bounds, triangles: model.triangles },
      'textures/keeper_tile.ktx2': { source: 'sources/keeper_tile.png', options: {}, width: texture.picture.width, height: texture.picture.height },
    },
  };
  const tree = writeDocuments({ manifest, maps: { pumphouse: map }, scripts: { [profile.scripts.main]: SCRIPT } });
  tree.set('models/pump.glb', model.glb);
  tree.set('textures/keeper_tile.ktx2', texture.ktx2);
  tree.set('previews/keeper_tile.png', texture.preview);
  tree.set('sources/pump.obj', text(obj));
  tree.set('sources/pump.mtl', text(mtl));
  tree.set('sources/keeper_tile.png', tile);
  return tree;
}
