import { useState } from 'react';
import { readScript } from '@violet-crate/core/script/check';
import type { Delivery } from '@violet-crate/core/trial/signals';
import { useFindingActions } from '../common/useFindingActions.ts';
import { useAppSelector } from '../state/store.ts';
import { deliveryText, firstDifference, timelineOf, type Arrow } from './timeline.ts';

interface Props {
  map: string;
  deliveries: readonly Delivery[];
  /** Those of the run before. */
  before: readonly Delivery[];
  nameOf(id: string): string;
}

/** Pixels: of a second, of a lane, and of the names beside the lanes. */
const SECOND = 26;
const LANE = 26;
const NAMES = 150;
const HEAD = 22;

/** Who sent what to whom, and when; what is chosen leads to its object or its line. */
export function TimelinePanel({ map, deliveries, before, nameOf }: Props) {
  const [chosen, setChosen] = useState<Delivery | null>(null);
  const { lanes, arrows, end } = timelineOf(deliveries, nameOf);
  if (arrows.length === 0) return <p className="faint p-2 mb-0">No signal was sent yet. Operate something.</p>;
  const seconds = Math.ceil(end) + 1;
  const [width, height] = [NAMES + seconds * SECOND, HEAD + lanes.length * LANE];
  const difference = firstDifference(before, deliveries, nameOf);
  const x = (time: number) => NAMES + time * SECOND;
  const y = (lane: number) => HEAD + (lane + 0.5) * LANE;
  return (
    <div className="timeline">
      {before.length > 0 && <p className="small px-2 my-1">{difference ?? 'So far the same as in the run before.'}</p>}
      <div className="timeline-scroll">
        <svg width={width} height={height} role="group" aria-label="Signals in time">
          {Array.from({ length: seconds + 1 }, (_, second) => (
            <g key={second}>
              <line className="grid" x1={x(second)} x2={x(second)} y1={HEAD} y2={height} />
              {second % 5 === 0 && (
                <text className="second" x={x(second) + 3} y={HEAD - 7}>
                  {second} s
                </text>
              )}
            </g>
          ))}
          {lanes.map(({ key, name }, i) => (
            <g key={key}>
              <line className="lane" x1={NAMES} x2={width} y1={y(i)} y2={y(i)} />
              <text className="name" x={8} y={y(i) + 4}>
                {name.length > 20 ? `${name.slice(0, 19)}…` : name}
                <title>{name}</title>
              </text>
            </g>
          ))}
          {arrows.map((arrow, i) => (
            <Signal
              key={i}
              arrow={arrow}
              label={`${arrow.delivery.sent.toFixed(1)} s ${deliveryText(arrow.delivery, nameOf)}`}
              chosen={arrow.delivery === chosen}
              points={[x(arrow.delivery.sent), y(arrow.from), x(arrow.delivery.arrives), y(arrow.to)]}
              onChoose={() => setChosen(arrow.delivery)}
            />
          ))}
        </svg>
      </div>
      {chosen && <Chosen map={map} delivery={chosen} nameOf={nameOf} />}
    </div>
  );
}

/** Pixels of the bar of a function that took so many milliseconds: of a hundredth as of a hundred something is seen. */
const barOf = (took: number): number => 3 + Math.log10(1 + took * 100) * 6;

/** A delay is a span on the sender's lane; then the arrow falls onto the receiver's. */
function Signal({
  arrow,
  label,
  chosen,
  points: [x0, y0, x1, y1],
  onChoose,
}: {
  arrow: Arrow;
  label: string;
  chosen: boolean;
  points: [number, number, number, number];
  onChoose(): void;
}) {
  const { sent, arrives } = arrow.delivery;
  return (
    <g
      className={`signal ${chosen ? 'chosen' : ''}`}
      role="button"
      tabIndex={0}
      aria-label={label}
      aria-pressed={chosen}
      onClick={onChoose}
      onKeyDown={(event) => {
        if (event.key !== 'Enter' && event.key !== ' ') return;
        event.preventDefault();
        onChoose();
      }}
    >
      {/* Signals of one moment begin at one point; where they arrive tells them apart. */}
      <rect className="catch" x={x1 - 8} y={y1 - LANE / 2} width={16} height={LANE} />
      {arrives > sent && <line className="delay" x1={x0} x2={x1} y1={y0} y2={y0} />}
      <line className="fall" x1={x1} x2={x1} y1={y0} y2={y1} />
      <circle cx={x0} cy={y0} r={3.5} />
      <rect className="arrival" x={x1 - 3} y={y1 - 3} width={6} height={6} />
      {arrow.delivery.took !== undefined && <rect className="took" x={x1} y={y1 + 4} width={barOf(arrow.delivery.took)} height={4} />}
    </g>
  );
}

function Chosen({ map, delivery, nameOf }: Pick<Props, 'map' | 'nameOf'> & { delivery: Delivery }) {
  const scripts = useAppSelector((s) => s.crate.scripts);
  const { show } = useFindingActions();
  const { sent, arrives, from, to, does } = delivery;
  const go = (place: { map?: string; object?: string; file?: string; line?: number }) =>
    show({ code: 'signal', severity: 'note', stage: 'trial', message: '', place });
  const line = to ? null : lineOf(scripts, does);
  return (
    <div className="p-2 border-top" role="status">
      <div className="small mb-2">
        {sent.toFixed(2)} s: {deliveryText(delivery, nameOf)}
        {arrives > sent && `, after ${(arrives - sent).toFixed(2)} s`}
        {delivery.took !== undefined && `; the function took ${delivery.took.toFixed(2)} ms`}
      </div>
      <div className="d-flex gap-2 flex-wrap">
        <button className="btn btn-quiet btn-sm" onClick={() => go({ map, object: from })}>
          {nameOf(from)} in the map
        </button>
        {to && (
          <button className="btn btn-quiet btn-sm" onClick={() => go({ map, object: to })}>
            {nameOf(to)} in the map
          </button>
        )}
        {line && (
          <button className="btn btn-quiet btn-sm" onClick={() => go(line)}>
            {does}() in {line.file}
          </button>
        )}
      </div>
    </div>
  );
}

/** Where a global function is written. */
function lineOf(scripts: Readonly<Record<string, string>>, name: string): { file: string; line: number } | null {
  for (const [file, source] of Object.entries(scripts)) {
    const found = readScript(file, source).outline?.functions.find((one) => one.name === name);
    if (found) return { file, line: found.line };
  }
  return null;
}
