import { useMemo } from 'react';
import { newCrateContents, TEMPLATES } from '@violet-crate/core/crate/template';
import type { GameMap } from '@violet-crate/core/document/schema';
import type { Profile } from '@violet-crate/core/profile/schema';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { Icon } from '../common/Icon.tsx';

interface Drawing {
  box: string;
  radius: number;
  blocks: { x: number; y: number; width: number; height: number }[];
  dots: [number, number][];
  words: string;
}

/** A template seen from above: its solids or its ground, with what stands on them. */
function drawingOf(map: GameMap): Drawing | null {
  // Floors and ceilings cover everything below them: what is as wide as the whole is its outline only.
  const boxes = Object.values(map.solids).map((solid) => shapeOf(solid).box);
  const grounds = Object.values(map.terrains).map(({ origin, samples, spacing }) => ({
    min: [origin[0], origin[1]],
    max: [origin[0] + (samples[0] - 1) * spacing, origin[1] + (samples[1] - 1) * spacing],
  }));
  const all = [...boxes, ...grounds];
  if (all.length === 0) return null;
  const low = [0, 1].map((axis) => Math.min(...all.map(({ min }) => min[axis])));
  const high = [0, 1].map((axis) => Math.max(...all.map(({ max }) => max[axis])));
  const size = [high[0] - low[0], high[1] - low[1]];
  const blocks = all.map(({ min, max }) => ({ x: min[0], y: -max[1], width: max[0] - min[0], height: max[1] - min[1] }));
  const dots = [...Object.values(map.objects), ...Object.values(map.copies)].map(({ position }): [number, number] => [position[0], -position[1]]);
  const count = (n: number, one: string) => (n === 0 ? [] : [`${n} ${one}${n === 1 ? '' : 's'}`]);
  return {
    box: `${low[0]} ${-high[1]} ${size[0]} ${size[1]}`,
    radius: Math.max(...size) / 40,
    blocks,
    dots,
    words: [...count(boxes.length, 'solid'), ...count(grounds.length, 'ground'), ...count(dots.length, 'object')].join(', '),
  };
}

/** What a template holds, drawn small; nothing for copies, which are not here before they are made. */
export function TemplatePicture({ profile, template }: { profile: Profile; template: string }) {
  const drawing = useMemo(() => {
    const known = TEMPLATES.find((one) => one === template);
    if (!known) return null;
    const { maps } = newCrateContents(profile, { name: 'new', title: 'new', template: known });
    return drawingOf(maps.new);
  }, [profile, template]);
  if (!drawing)
    return (
      <span className="template-picture d-grid place-content-center" aria-hidden="true">
        <Icon name={template === 'blank' ? 'square' : 'copy'} />
      </span>
    );
  return (
    <svg className="template-picture" viewBox={drawing.box} role="img" aria-label={drawing.words} preserveAspectRatio="xMidYMid meet">
      <title>{drawing.words}</title>
      {drawing.blocks.map((block, i) => (
        <rect key={i} {...block} />
      ))}
      {drawing.dots.map(([x, y], i) => (
        <circle key={i} cx={x} cy={y} r={drawing.radius} />
      ))}
    </svg>
  );
}
