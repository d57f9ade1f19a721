/** The demo crate *Snowgate Ridge*: manifest, map, script, and pictures for the player's map. */

import { writeDocuments } from '@violet-crate/core/crate/contents';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import { enterAsset, importAsset } from '@violet-crate/core/importing/importAsset';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { Rgb } from '../noise.ts';
import { withPicture } from '../pictures.ts';
import { paintTexture } from '../textures.ts';
import { snowgateData } from './racers.ts';
import { snowgateMap } from './map.ts';

const SCRIPT = `-- Snowgate Ridge: a race over a crest, a frozen tarn and through a wood.

function startup()
  say("Eight gates between here and the lower line. Let the kite out and go.")
  fire("horn", "play")
end

local seen = false

function on_ice()
  if not seen then
    seen = true
    say("Ice. The edges hardly hold: steer early.")
  end
end
`;

const INK: Rgb = [44, 36, 60];
const PAPER: Rgb = [236, 226, 204];

/** A gable over a wall. */
const shedIcon = (u: number, v: number): Rgb => {
  const roof = v > 0.2 && v < 0.5 && Math.abs(u - 0.5) < (v - 0.2) * 1.4;
  const wall = v >= 0.5 && v < 0.82 && Math.abs(u - 0.5) < 0.3 && !(v > 0.58 && Math.abs(u - 0.5) < 0.12);
  return roof || wall ? INK : PAPER;
};

/** Two peaks under a sun. */
const viewIcon = (u: number, v: number): Rgb => {
  const peaks = v > Math.min(0.35 + Math.abs(u - 0.38) * 1.3, 0.48 + Math.abs(u - 0.7) * 1.3) && v < 0.8;
  return peaks || Math.hypot(u - 0.74, v - 0.27) < 0.1 ? INK : PAPER;
};

export async function snowgateCrate(profile: Profile): Promise<FileTree> {
  const icons = await Promise.all(
    Object.entries({ icon_shed: shedIcon, icon_view: viewIcon }).map(([name, painter]) =>
      importAsset(profile, { file: `snowgate_sources/${name}.png`, name, bytes: paintTexture(painter, 64) }),
    ),
  );
  const start: CrateManifest = {
    format: 1,
    name: 'snowgate',
    title: 'Snowgate Ridge',
    description:
      'A kite-sled race along an open crest, down into a bowl with a frozen tarn, through a pine wood and a shed, and over three jumps to the valley. Nearly three kilometres, eight gates, about three minutes.',
    version: '1.0.0',
    profile: profile.id,
    mainMap: 'snowgate',
    authors: ['Signe Aldwater'],
    credits: [{ author: 'Tamsin Rook', work: 'Pictures for the map of riders', licence: 'CC-BY-4.0' }],
    licence: 'CC-BY-4.0',
    about: { tags: ['race'], players: [1, 8], minutes: 5, difficulty: 'hard', languages: ['en'] },
    materials: [],
    assets: {},
  };
  const manifest = icons.reduce(enterAsset, start);
  const tree = writeDocuments({
    manifest,
    maps: { snowgate: snowgateMap(profile) },
    scripts: { [profile.scripts.main]: SCRIPT },
    data: snowgateData(profile),
  });
  for (const asset of icons) for (const [path, bytes] of asset.files) tree.set(path, bytes);
  return withPicture(tree, 'snowgate');
}
