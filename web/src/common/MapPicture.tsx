import { useMemo } from 'react';
import type { GameMap } from '@violet-crate/core/document/schema';
import { shapeOf } from '@violet-crate/core/solid/shape';
import './mapPicture.css';

interface Block {
  x: number;
  y: number;
  width: number;
  height: number;
  touched: boolean;
}

interface Drawing {
  box: string;
  radius: number;
  blocks: Block[];
  dots: { at: [number, number]; touched: boolean }[];
  words: string;
}

/** Ids of members to be drawn so that they stand out. */
type Touched = Partial<Record<'objects' | 'solids', readonly string[]>>;

/** A map seen from above: its solids or its ground, with what stands on them. Null for an empty one. */
function drawingOf(map: GameMap, touched: Touched): Drawing | null {
  const marked = { objects: new Set(touched.objects), solids: new Set(touched.solids) };
  const boxes = Object.entries(map.solids).map(([id, solid]) => ({ ...shapeOf(solid).box, touched: marked.solids.has(id) }));
  const grounds = Object.values(map.terrains ?? {}).map(({ origin, samples, spacing }) => ({
    min: [origin[0], origin[1]],
    max: [origin[0] + (samples[0] - 1) * spacing, origin[1] + (samples[1] - 1) * spacing],
    touched: false,
  }));
  const all = [...boxes, ...grounds];
  if (all.length === 0) return null;
  // One by one: a large map has more solids than a call may have arguments.
  const low = [0, 1].map((axis) => all.reduce((least, { min }) => Math.min(least, min[axis]), Infinity));
  const high = [0, 1].map((axis) => all.reduce((most, { max }) => Math.max(most, max[axis]), -Infinity));
  const size = [high[0] - low[0], high[1] - low[1]];
  // What was touched is drawn last, over everything that would cover it.
  const last = (a: { touched: boolean }, b: { touched: boolean }) => Number(a.touched) - Number(b.touched);
  const blocks = all
    .map(({ min, max, touched: is }) => ({ x: min[0], y: -max[1], width: max[0] - min[0], height: max[1] - min[1], touched: is }))
    .sort(last);
  const dots = [...Object.entries(map.objects), ...Object.entries(map.copies ?? {})]
    .map(([id, { position }]) => ({ at: [position[0], -position[1]] as [number, number], touched: marked.objects.has(id) }))
    .sort(last);
  const count = (n: number, one: string) => (n === 0 ? [] : [`${n} ${one}${n === 1 ? '' : 's'}`]);
  return {
    box: `${low[0]} ${-high[1]} ${size[0]} ${size[1]}`,
    radius: Math.max(...size) / 40,
    blocks,
    dots,
    words: [...count(boxes.length, 'solid'), ...count(grounds.length, 'ground'), ...count(dots.length, 'object')].join(', '),
  };
}

/** A map drawn small from above; nothing where it holds nothing to be seen. */
export function MapPicture({ map, touched = NOTHING }: { map: GameMap; touched?: Touched }) {
  const drawing = useMemo(() => drawingOf(map, touched), [map, touched]);
  if (!drawing) return null;
  return (
    <svg className="map-picture" viewBox={drawing.box} role="img" aria-label={drawing.words} preserveAspectRatio="xMidYMid meet">
      <title>{drawing.words}</title>
      {drawing.blocks.map(({ touched: is, ...block }, i) => (
        <rect key={i} className={is ? 'touched' : undefined} {...block} />
      ))}
      {drawing.dots.map(({ at: [x, y], touched: is }, i) => (
        <circle key={i} className={is ? 'touched' : undefined} cx={x} cy={y} r={drawing.radius * (is ? 1.6 : 1)} />
      ))}
    </svg>
  );
}

const NOTHING: Touched = {};
