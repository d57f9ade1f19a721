import { useMemo } from 'react';
import { LinkGraph } from '@violet-crate/core/link/graph';
import { reportOf, type Link } from '@violet-crate/core/link/report';
import { thingId, type LinkKind } from '@violet-crate/core/link/thing';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { assetKindOf } from '@violet-crate/core/crate/assetKind';
import { isWorkingFile } from '@violet-crate/core/crate/contents';
import { useAppSelector } from '../state/store.ts';
import { selectWorld } from '../state/world.ts';

/** Kept from page to page: only what was edited meanwhile is followed. */
let kept: LinkGraph | null = null;

export interface LinkRow extends Link {
  /** Why it stays although nothing needs it. */
  kept?: string;
  unused: boolean;
}

export interface Links {
  world: CrateWorld;
  graph: LinkGraph;
  rows: LinkRow[];
  ownBytes: number;
  gameBytes: number;
}

/** The links of the open crate as it is now. @param map one of its maps, or everything without it. @returns null while it is loading */
export function useLinks(map: string): Links | null {
  const world = useAppSelector(selectWorld);
  return useMemo(() => {
    if (!world) return null;
    if (kept) kept.update(world);
    else kept = new LinkGraph(world);
    return linksOf(world, kept, map);
  }, [world, map]);
}

export function linksOf(world: CrateWorld, graph: LinkGraph, map: string): Links {
  const reports = Object.keys(world.crate.maps)
    .filter((name) => map === '' || name === map)
    .map((name) => reportOf(graph, world, name));
  const rows = new Map<string, LinkRow>();
  for (const { links } of reports)
    for (const link of links) {
      const known = rows.get(link.id);
      if (!known) rows.set(link.id, { ...link, unused: false });
      else
        Object.assign(known, {
          usedBy: [...new Set([...known.usedBy, ...link.usedBy])].sort(),
          solids: [...known.solids, ...link.solids],
          objects: [...known.objects, ...link.objects],
        });
    }
  const { manifest, files } = world.crate;
  const reached = graph.reach(graph.roots);
  const idle = (kind: LinkKind, name: string, entry: string) => {
    const id = thingId(kind, name);
    if (!reached.has(id)) rows.set(id, { ...graph.thing(id), usedBy: [], solids: [], objects: [], unused: true, kept: manifest.kept?.[entry] });
  };
  for (const { path } of files) {
    const kind = assetKindOf(path);
    if (kind && !isWorkingFile(path)) idle(kind, path, path);
  }
  for (const { name } of manifest.materials) idle('material', name, `material:${name}`);
  const list = [...rows.values()];
  const sum = (origin: Link['origin']) => list.reduce((bytes, row) => bytes + (row.origin === origin && !row.unused ? row.bytes : 0), 0);
  return { world, graph, rows: list, ownBytes: sum('crate'), gameBytes: sum('game') };
}
