/** Addresses of files of the open crate and its game. */

import { previewPath } from '@violet-crate/core/crate/contents';
import { splitRequired } from '@violet-crate/core/crate/lock';
import type { CrateView } from './types.ts';

export interface AssetSource {
  view: CrateView;
  profileId: string;
}

/** Address of a file: the crate's own, else the game's. Own addresses change with their content. */
export function fileUrl({ view, profileId }: AssetSource, path: string): string {
  const own = view.files.find((file) => file.path === path);
  const required = splitRequired(path);
  if (required && !own) return `/api/crates/${view.id}/required/${required.name}/files/${required.path}`;
  return own ? `/api/crates/${view.id}/files/${path}?v=${own.sha256.slice(0, 12)}` : `/api/games/${profileId}/base/${path}?install=${view.install}`;
}

/** Address of the picture that stands for a texture. */
export const previewUrl = (source: AssetSource, texture: string): string => fileUrl(source, previewPath(texture));
