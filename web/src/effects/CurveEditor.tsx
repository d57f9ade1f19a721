import { useId, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { MOST_KEYS, type Curve } from '@violet-crate/core/effect/document';
import { curveAt } from '@violet-crate/core/effect/curve';
import { NumberInput } from '../common/fields.tsx';
import { Icon } from '../common/Icon.tsx';

/** Of the drawing, in its own units; margins leave room for keys at the rim. */
const [WIDTH, HEIGHT, MARGIN] = [320, 110, 10];

interface Props {
  label: string;
  /** What runs along the bottom: "life", "round". */
  along: string;
  value: Curve;
  least: number;
  /** Told while a key is dragged. */
  onDraft(curve: Curve | null): void;
  onCommit(curve: Curve): void;
}

const round = (value: number): number => Number(value.toPrecision(4));

/** A curve with its keys: dragged, moved by arrow keys, typed, added by a double click or Insert, taken out by Delete. */
export function CurveEditor({ label, along, value, least, onDraft, onCommit }: Props) {
  const id = useId();
  const [chosen, setChosen] = useState(0);
  const [draft, setDraft] = useState<Curve | null>(null);
  const curve = draft ?? value;
  // The scale stays as it is while a key is dragged, or it would run away under the pointer.
  const top = Math.max(least + 1e-6, ...value.map(([, v]) => v)) * 1.25 || 1;
  const x = (t: number) => MARGIN + t * (WIDTH - 2 * MARGIN);
  const y = (v: number) => HEIGHT - MARGIN - ((v - least) / (top - least)) * (HEIGHT - 2 * MARGIN);
  const now = Math.min(chosen, curve.length - 1);
  const put = (index: number, t: number, v: number): Curve => {
    const [from, to] = [curve[index - 1]?.[0] ?? 0, curve[index + 1]?.[0] ?? 1];
    return curve.map((key, i) => (i === index ? [round(Math.min(to, Math.max(from, t))), round(Math.max(least, v))] : key));
  };
  const at = (event: PointerEvent | React.MouseEvent): [number, number] => {
    const box = (event.currentTarget.closest('svg') as SVGSVGElement).getBoundingClientRect();
    const t = (((event.clientX - box.left) / box.width) * WIDTH - MARGIN) / (WIDTH - 2 * MARGIN);
    const share = (HEIGHT - MARGIN - ((event.clientY - box.top) / box.height) * HEIGHT) / (HEIGHT - 2 * MARGIN);
    return [t, least + share * (top - least)];
  };
  const add = (t: number, v: number) => {
    if (curve.length >= MOST_KEYS) return;
    const index = curve.findIndex(([time]) => time > t);
    const place = index < 0 ? curve.length : index;
    setChosen(place);
    onCommit([...curve.slice(0, place), [round(Math.min(1, Math.max(0, t))), round(Math.max(least, v))], ...curve.slice(place)]);
  };
  const remove = (index: number) => curve.length > 1 && onCommit(curve.filter((_, i) => i !== index));
  const onKey = (event: KeyboardEvent, index: number) => {
    const [t, v] = curve[index];
    const step = (event.shiftKey ? 0.1 : 0.01) * (top - least);
    const move: Record<string, [number, number]> = {
      ArrowLeft: [t - (event.shiftKey ? 0.1 : 0.01), v],
      ArrowRight: [t + (event.shiftKey ? 0.1 : 0.01), v],
      ArrowUp: [t, v + step],
      ArrowDown: [t, v - step],
    };
    if (Object.hasOwn(move, event.key)) onCommit(put(index, ...move[event.key]));
    else if (event.key === 'Delete') remove(index);
    else if (event.key === 'Insert') {
      const next = curve[index + 1]?.[0] ?? 1;
      add((t + next) / 2, curveAt(curve, (t + next) / 2));
    } else return;
    event.preventDefault();
  };
  const line = [[0, curve[0][1]] as const, ...curve, [1, curve[curve.length - 1][1]] as const].map(([t, v]) => `${x(t)},${y(v)}`).join(' ');
  return (
    <figure className="curve" aria-labelledby={id}>
      <figcaption id={id}>
        {label} <span className="faint">over its {along}</span>
      </figcaption>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="group"
        aria-labelledby={id}
        onDoubleClick={(event) => add(...at(event))}
        onPointerMove={(event) => {
          if (draft === null || event.buttons === 0) return;
          const next = put(now, ...at(event));
          setDraft(next);
          onDraft(next);
        }}
        onPointerUp={() => {
          if (draft && draft !== value) onCommit(draft);
          setDraft(null);
          onDraft(null);
        }}
      >
        {[0, 0.5, 1].map((share) => (
          <line
            key={share}
            className="curve-grid"
            x1={MARGIN}
            x2={WIDTH - MARGIN}
            y1={y(least + share * (top - least))}
            y2={y(least + share * (top - least))}
          />
        ))}
        <text className="curve-scale" x={MARGIN} y={MARGIN + 2}>
          {round(top)}
        </text>
        <polyline className="curve-line" points={line} />
        {curve.map(([t, v], i) => (
          <rect
            key={i}
            className={`curve-key ${i === now ? 'chosen' : ''}`}
            x={x(t) - 5}
            y={y(v) - 5}
            width={10}
            height={10}
            tabIndex={0}
            role="button"
            aria-pressed={i === now}
            aria-label={`${label}: key ${i + 1} of ${curve.length}, ${t} at ${v}`}
            onFocus={() => setChosen(i)}
            onKeyDown={(event) => onKey(event, i)}
            onPointerDown={(event) => {
              event.currentTarget.closest('svg')!.setPointerCapture(event.pointerId);
              event.currentTarget.focus();
              setChosen(i);
              setDraft(value);
            }}
          />
        ))}
      </svg>
      <div className="curve-row">
        <NumberInput name={`${label}: when, 0 to 1`} value={curve[now][0]} min={0} max={1} onCommit={(t) => onCommit(put(now, t, curve[now][1]))} />
        <NumberInput name={`${label}: how much`} value={curve[now][1]} min={least} onCommit={(v) => onCommit(put(now, curve[now][0], v))} />
        <button
          className="btn btn-quiet btn-sm"
          aria-label={`Add a key to ${label}`}
          title="Add a key (Insert, or double click)"
          disabled={curve.length >= MOST_KEYS}
          onClick={() => {
            const [from, to] = [curve[now][0], curve[now + 1]?.[0] ?? 1];
            add((from + to) / 2, curveAt(curve, (from + to) / 2));
          }}
        >
          <Icon name="plus-lg" />
        </button>
        <button
          className="btn btn-quiet btn-sm"
          aria-label={`Take the chosen key out of ${label}`}
          title="Take the key out (Delete)"
          disabled={curve.length < 2}
          onClick={() => remove(now)}
        >
          <Icon name="trash" />
        </button>
      </div>
    </figure>
  );
}
