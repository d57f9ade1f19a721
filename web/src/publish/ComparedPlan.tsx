import { useMemo } from 'react';
import type { GameMap } from '@violet-crate/core/document/schema';
import { canonicalJson } from '@violet-crate/core/hash';
import { shapeOf } from '@violet-crate/core/solid/shape';

type Change = 'added' | 'removed' | 'changed' | 'same';

interface Mark {
  x: number;
  y: number;
  width: number;
  height: number;
  change: Change;
  name: string;
}

/** What is told apart on the plan: a mark and a word for each, not the colour alone. */
const SIGNS: Record<Exclude<Change, 'same'>, string> = { added: '+', removed: '−', changed: '~' };
/** Names that are written out; the others have their mark. */
const NAMED = 24;

function marksOf(before: GameMap, after: GameMap): Mark[] {
  const marks: Mark[] = [];
  const change = (from: unknown, to: unknown): Change =>
    from === undefined ? 'added' : to === undefined ? 'removed' : canonicalJson(from) === canonicalJson(to) ? 'same' : 'changed';
  const solids = (map: GameMap) => map.solids;
  for (const id of new Set([...Object.keys(solids(before)), ...Object.keys(solids(after))])) {
    const [from, to] = [before.solids[id], after.solids[id]];
    const { min, max } = shapeOf(to ?? from).box;
    marks.push({ x: min[0], y: -max[1], width: max[0] - min[0], height: max[1] - min[1], change: change(from, to), name: (to ?? from).label ?? '' });
  }
  for (const id of new Set([...Object.keys(before.objects), ...Object.keys(after.objects)])) {
    const [from, to] = [before.objects[id], after.objects[id]];
    const kind = change(from, to);
    const { position, name } = to ?? from;
    if (kind !== 'same') marks.push({ x: position[0], y: -position[1], width: 0, height: 0, change: kind, name });
  }
  return marks;
}

/** A map from above with what was added, removed and changed between two releases. */
export function ComparedPlan({ name, before, after }: { name: string; before: GameMap; after: GameMap }) {
  const drawing = useMemo(() => {
    const marks = marksOf(before, after);
    const low = [0, 1].map((axis) => marks.reduce((least, mark) => Math.min(least, axis === 0 ? mark.x : mark.y), Infinity));
    const high = [0, 1].map((axis) =>
      marks.reduce((most, mark) => Math.max(most, axis === 0 ? mark.x + mark.width : mark.y + mark.height), -Infinity),
    );
    return { marks, low, size: [Math.max(1, high[0] - low[0]), Math.max(1, high[1] - low[1])] };
  }, [before, after]);
  const { marks, low, size } = drawing;
  if (marks.length === 0) return null;
  const pad = Math.max(...size) / 20;
  const text = Math.max(...size) / 34;
  const different = marks.filter((mark) => mark.change !== 'same');
  const count = (change: Change) => different.filter((mark) => mark.change === change).length;
  return (
    <figure className="compared-plan">
      <svg
        viewBox={`${low[0] - pad} ${low[1] - pad} ${size[0] + pad * 2} ${size[1] + pad * 2}`}
        role="img"
        aria-label={`Plan of ${name}: ${count('added')} added, ${count('removed')} removed, ${count('changed')} changed`}
      >
        {[...marks]
          .filter(({ width }) => width > 0)
          .sort((a, b) => Number(a.change !== 'same') - Number(b.change !== 'same'))
          .map((mark, n) => (
            <rect key={n} x={mark.x} y={mark.y} width={mark.width} height={mark.height} className={mark.change} strokeWidth={text / 8} />
          ))}
        {different.map((mark, n) => {
          const [x, y] = [mark.x + mark.width / 2, mark.y + mark.height / 2];
          return (
            <g key={n} className={mark.change}>
              <circle cx={x} cy={y} r={text * 0.7} />
              <text x={x} y={y} fontSize={text} dominantBaseline="central" textAnchor="middle">
                {SIGNS[mark.change as keyof typeof SIGNS]}
              </text>
              {n < NAMED && mark.name !== '' && (
                <text x={x + text} y={y} fontSize={text * 0.9} dominantBaseline="central" className="name">
                  {mark.name}
                </text>
              )}
            </g>
          );
        })}
      </svg>
      <figcaption className="faint">
        {name}: + {count('added')} added, − {count('removed')} removed, ~ {count('changed')} changed
      </figcaption>
    </figure>
  );
}
