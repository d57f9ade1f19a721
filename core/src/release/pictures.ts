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
import { renderThumbnail, type ThumbnailView } from './thumbnail.ts';

/** Most that a release shows. */
export const MOST_PICTURES = 12;

export interface BookmarkView {
  /** Path in the package. */
  path: string;
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
    .map(({ name, position, target }, n) => {
      const ground = groundView(world, map, position);
      return {
        path: `pictures/${String(n + 1).padStart(2, '0')}.png`,
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

/** Draws them all, as the title picture is drawn. @param glb the built main map */
export async function picturesOf(glb: Uint8Array, world: CrateWorld, onProgress: (fraction: number) => void = () => {}): Promise<FileTree> {
  const views = bookmarkViews(world, world.crate.manifest.mainMap);
  const pictures: FileTree = new Map();
  for (const { path, view } of views) {
    pictures.set(path, await renderThumbnail(glb, world.profile.unit.metres, view));
    onProgress(pictures.size / views.length);
  }
  return pictures;
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
