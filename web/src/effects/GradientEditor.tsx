import { useId, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { gradientAt } from '@violet-crate/core/effect/curve';
import { MOST_KEYS, type Gradient } from '@violet-crate/core/effect/document';
import { hexOfLinear } from '@violet-crate/core/math/srgb';
import { NumberInput } from '../common/fields.tsx';
import { Icon } from '../common/Icon.tsx';

interface Props {
  label: string;
  value: Gradient;
  onDraft(gradient: Gradient | null): void;
  onCommit(gradient: Gradient): void;
}

const round = (value: number): number => Math.round(value * 1000) / 1000;
/** Pieces of the bar: enough that mixing in linear light shows as it is. */
const PIECES = 24;

/** The colours of a life as a bar with its stops below it: dragged, moved by arrow keys, typed. */
export function GradientEditor({ label, value, onDraft, onCommit }: Props) {
  const id = useId();
  const [chosen, setChosen] = useState(0);
  const [draft, setDraft] = useState<Gradient | null>(null);
  const stops = draft ?? value;
  const now = Math.min(chosen, stops.length - 1);
  const change = (index: number, part: Partial<Gradient[number]>): Gradient => stops.map((stop, i) => (i === index ? { ...stop, ...part } : stop));
  const moved = (index: number, at: number): Gradient =>
    change(index, { at: round(Math.min(stops[index + 1]?.at ?? 1, Math.max(stops[index - 1]?.at ?? 0, at))) });
  const shareOf = (event: PointerEvent | React.MouseEvent): number => {
    const box = event.currentTarget.closest('.gradient-track')!.getBoundingClientRect();
    return Math.min(1, Math.max(0, (event.clientX - box.left) / box.width));
  };
  const add = (at: number) => {
    if (stops.length >= MOST_KEYS) return;
    const [r, g, b, alpha] = gradientAt(stops, at);
    const index = stops.findIndex((stop) => stop.at > at);
    const place = index < 0 ? stops.length : index;
    setChosen(place);
    onCommit([...stops.slice(0, place), { at: round(at), colour: hexOfLinear([r, g, b]), alpha: round(alpha) }, ...stops.slice(place)]);
  };
  const remove = (index: number) => stops.length > 1 && onCommit(stops.filter((_, i) => i !== index));
  const onKey = (event: KeyboardEvent, index: number) => {
    const { at, alpha } = stops[index];
    const step = event.shiftKey ? 0.1 : 0.01;
    if (event.key === 'ArrowLeft') onCommit(moved(index, at - step));
    else if (event.key === 'ArrowRight') onCommit(moved(index, at + step));
    else if (event.key === 'ArrowUp') onCommit(change(index, { alpha: round(Math.min(1, alpha + step)) }));
    else if (event.key === 'ArrowDown') onCommit(change(index, { alpha: round(Math.max(0, alpha - step)) }));
    else if (event.key === 'Delete') remove(index);
    else if (event.key === 'Insert') add((at + (stops[index + 1]?.at ?? 1)) / 2);
    else return;
    event.preventDefault();
  };
  const pieces = Array.from({ length: PIECES + 1 }, (_, i) => {
    const [r, g, b, alpha] = gradientAt(stops, i / PIECES);
    const hex = hexOfLinear([r, g, b]);
    return `${hex}${Math.round(alpha * 255)
      .toString(16)
      .padStart(2, '0')} ${(i / PIECES) * 100}%`;
  });
  return (
    <figure className="curve" aria-labelledby={id}>
      <figcaption id={id}>
        {label} <span className="faint">over its life</span>
      </figcaption>
      <div
        className="gradient-track"
        role="group"
        aria-labelledby={id}
        onDoubleClick={(event) => add(shareOf(event))}
        onPointerMove={(event) => {
          if (draft === null || event.buttons === 0) return;
          const next = moved(now, shareOf(event));
          setDraft(next);
          onDraft(next);
        }}
        onPointerUp={() => {
          if (draft && draft !== value) onCommit(draft);
          setDraft(null);
          onDraft(null);
        }}
      >
        <div className="gradient-bar" style={{ backgroundImage: `linear-gradient(to right, ${pieces.join(', ')})` }} />
        {stops.map(({ at, colour, alpha }, i) => (
          <button
            key={i}
            className={`gradient-stop ${i === now ? 'chosen' : ''}`}
            style={{ left: `${at * 100}%`, background: colour }}
            aria-pressed={i === now}
            aria-label={`${label}: stop ${i + 1} of ${stops.length}, ${colour} at ${at}, ${Math.round(alpha * 100)} % opaque`}
            onFocus={() => setChosen(i)}
            onKeyDown={(event) => onKey(event, i)}
            onPointerDown={(event) => {
              event.currentTarget.closest('.gradient-track')!.setPointerCapture(event.pointerId);
              event.currentTarget.focus();
              setChosen(i);
              setDraft(value);
            }}
          />
        ))}
      </div>
      <div className="curve-row">
        <NumberInput name={`${label}: when, 0 to 1`} value={stops[now].at} min={0} max={1} onCommit={(at) => onCommit(moved(now, at))} />
        <input
          type="color"
          className="form-control form-control-color form-control-sm"
          aria-label={`${label}: colour of the chosen stop`}
          value={stops[now].colour}
          onChange={({ target }) => onCommit(change(now, { colour: target.value }))}
        />
        <NumberInput
          name={`${label}: how opaque, 0 to 1`}
          value={stops[now].alpha}
          min={0}
          max={1}
          onCommit={(alpha) => onCommit(change(now, { alpha }))}
        />
        <button
          className="btn btn-quiet btn-sm"
          aria-label={`Add a stop to ${label}`}
          title="Add a stop (Insert, or double click)"
          disabled={stops.length >= MOST_KEYS}
          onClick={() => add((stops[now].at + (stops[now + 1]?.at ?? 1)) / 2)}
        >
          <Icon name="plus-lg" />
        </button>
        <button
          className="btn btn-quiet btn-sm"
          aria-label={`Take the chosen stop out of ${label}`}
          title="Take the stop out (Delete)"
          disabled={stops.length < 2}
          onClick={() => remove(now)}
        >
          <Icon name="trash" />
        </button>
      </div>
    </figure>
  );
}
