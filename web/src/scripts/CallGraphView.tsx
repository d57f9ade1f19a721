import { useMemo } from 'react';
import { callersOf } from '@violet-crate/core/link/callers';
import { useAppSelector } from '../state/store.ts';
import { callGraph, NODE_HEIGHT } from './callGraph.ts';

/** Who calls whom, signals included; what nothing reaches is dashed and named. */
export function CallGraphView({ onLine }: { onLine(path: string, line: number): void }) {
  const { profile, scripts, data } = useAppSelector((s) => s.crate);
  const { map, name } = useAppSelector((s) => s.map);
  const graph = useMemo(
    () => (profile ? callGraph(scripts, callersOf(profile, scripts, map ? { [name]: map } : {}, data)) : null),
    [profile, scripts, map, name, data],
  );
  if (!graph || graph.nodes.length === 0) return <p className="faint p-3 mb-0">No script defines a function yet.</p>;
  const lost = graph.nodes.filter(({ unreached }) => unreached);
  return (
    <div className="call-graph">
      <p className="small px-3 pt-2 mb-1" role="status">
        {lost.length === 0 ? 'Something that runs leads to every function.' : `Nothing leads to ${lost.map(({ label }) => label).join(', ')}.`}
      </p>
      <div className="overflow-auto flex-grow-1" tabIndex={0} role="group" aria-label="Who calls whom">
        <svg width={graph.width + 2} height={graph.height + 2}>
          <defs>
            <marker id="call-head" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="7" markerHeight="7" orient="auto">
              <path d="M0 0 L8 4 L0 8 Z" />
            </marker>
          </defs>
          {graph.edges.map(({ from, to, points }) => (
            <path key={`${from}>${to}`} className="call" d={`M${points.map(({ x, y }) => `${x} ${y}`).join('L')}`} markerEnd="url(#call-head)" />
          ))}
          {graph.nodes.map(({ id, kind, label, path, line, unreached, x, y, width }) => {
            const open = path && line ? () => onLine(path, line) : undefined;
            return (
              <g
                key={id}
                className={`node ${kind} ${unreached ? 'unreached' : ''}`}
                transform={`translate(${x - width / 2} ${y - NODE_HEIGHT / 2})`}
                role={open ? 'button' : undefined}
                tabIndex={open ? 0 : undefined}
                aria-label={open ? `${label} in ${path}, line ${line}${unreached ? ', nothing leads to it' : ''}` : undefined}
                onClick={open}
                onKeyDown={(event) => event.key === 'Enter' && open?.()}
              >
                <rect width={width} height={NODE_HEIGHT} rx={kind === 'function' ? 4 : NODE_HEIGHT / 2} />
                <text x={width / 2} y={NODE_HEIGHT / 2 + 4} textAnchor="middle">
                  {label}
                </text>
              </g>
            );
          })}
        </svg>
      </div>
    </div>
  );
}
