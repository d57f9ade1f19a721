/** Pictures of a package beside its title: what the bookmarks of the main map show, and whether a picture says anything. */

import { decode } from 'fast-png';
import type { FileTree } from '../crate/fileTree.ts';
import type { CrateWorld } from '../crate/world.ts';
import type { Finding } from '../finding.ts';
import { expandMap } from '../map/prefab.ts';
import { PNG_SIGNATURE } from '../asset/texture/readPng.ts';
import { linearOfHex } from '../math/srgb.ts';
import { sub } from '../math/vec3.ts';
import { groundView } from './groundView.ts';
import { MOST_PICTURES, takenPictures, TITLE_PICTURE } from './takenPictures.ts';
import { startView } from './startView.ts';
import { encodePicture, openBuilt, type ThumbnailView } from './thumbnail.ts';

export interface BookmarkView {
  name: string;
  view: ThumbnailView;
}

/** Views of the bookmarks of a map, in the order of their names. */
export function bookmarkViews(world: CrateWorld, mapName: string): BookmarkView[] {
  const map = expandMap(world.crate.maps[mapName], world.profile);
  const { thumbnailWidth: width, thumbnailHeight: height } = world.profile.package;
  return Object.values(map.bookmarks)
    .sort((a, b) => (a.name < b.name ? -1 : 1))
    .slice(0, MOST_PICTURES)
    .map(({ name, position, target }) => {
      const ground = groundView(world, map, position);
      return {
        name,
        view: {
          ...(ground ? { ground } : {}),
          eye: position,
          direction: sub(target, position),
          fieldOfView: 68,
          width,
          height,
          sky: linearOfHex(map.settings.skyColour),
        },
      };
    });
}

export interface ReleasePictures {
  title: Uint8Array;
  /** By their path in the package: what was taken, and then what bookmarks show. */
  more: FileTree;
}

/**
 * The pictures of a release. What nobody took is drawn: the title as a player sees the map at the start, the others from bookmarks.
 *
 * @param glb the built main map
 * @param readFile a file of the crate
 */
export async function picturesOf(
  glb: Uint8Array,
  world: CrateWorld,
  readFile: (path: string) => Promise<Uint8Array>,
  onProgress: (fraction: number) => void = () => {},
): Promise<ReleasePictures> {
  const { mainMap } = world.crate.manifest;
  const draw = await openBuilt(glb, world.profile.unit.metres);
  const { files } = world.crate;
  const taken = takenPictures(files).slice(0, MOST_PICTURES);
  const views = bookmarkViews(world, mainMap).slice(0, MOST_PICTURES - taken.length);
  const own = files.some(({ path }) => path === TITLE_PICTURE);
  const title = own ? await readFile(TITLE_PICTURE) : encodePicture(draw(startView(world, mainMap)));
  const all = await Promise.all(taken.map(readFile));
  for (const { view } of views) {
    onProgress((1 + all.length) / (1 + taken.length + views.length));
    all.push(encodePicture(draw(view)));
  }
  return { title, more: new Map(all.map((png, n) => [`pictures/${String(n + 1).padStart(2, '0')}.png`, png])) };
}

/** Mean brightness below which nothing is seen on a screen in daylight, of 1; common practice. */
const DARK = 0.06;

/** What is wrong with a picture that players are to choose by. @param png as it travels */
export function checkPicture(png: Uint8Array, path: string, wanted: { width: number; height: number }): Finding[] {
  // Whoever sends one has it read by then, and is told.
  if (PNG_SIGNATURE.some((byte, i) => png[i] !== byte)) return [];
  const { width, height, data, channels } = decode(png);
  const find = (code: string, message: string, hint: string): Finding => ({
    code,
    severity: 'warning',
    stage: 'publish',
    message,
    hint,
    place: { file: path },
  });
  const findings: Finding[] = [];
  if (width < wanted.width || height < wanted.height)
    findings.push(
      find(
        'picture-small',
        `${path} is ${width} × ${height} pixels; the game’s page shows ${wanted.width} × ${wanted.height}.`,
        'Take it again, larger.',
      ),
    );
  let sum = 0;
  const step = Math.max(1, Math.floor((width * height) / 20_000));
  let count = 0;
  for (let pixel = 0; pixel < width * height; pixel += step) {
    const at = pixel * channels;
    sum += channels >= 3 ? 0.2126 * data[at] + 0.7152 * data[at + 1] + 0.0722 * data[at + 2] : data[at];
    count++;
  }
  const mean = sum / count / 255;
  if (mean < DARK) findings.push(find('picture-dark', `${path} is so dark that hardly anything is seen on it.`, 'Choose another view, or light it.'));
  return findings;
}
