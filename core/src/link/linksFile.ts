/** `maps/NAME/links.json` of a package: everything that a map was linked with, by hash and why. docs/formats.md has its form. */

import type { Link, LinkReport } from './report.ts';

export interface LinkedThing extends Pick<Link, 'kind' | 'name' | 'origin' | 'bytes'> {
  sha256?: string;
  /** Who needs it, at most the first ten. */
  why: string[];
}

export interface LinksFile {
  format: 1;
  map: string;
  things: LinkedThing[];
}

const TOLD = 10;

export const linksFile = ({ map, links }: LinkReport): LinksFile => ({
  format: 1,
  map,
  things: links.map(({ kind, name, origin, bytes, sha256, usedBy }) => ({
    kind,
    name,
    origin,
    bytes,
    ...(sha256 ? { sha256 } : {}),
    why: usedBy.slice(0, TOLD),
  })),
});
