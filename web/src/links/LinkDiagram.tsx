import { memo, useMemo, useState } from 'react';
import { Background, Controls, Handle, MarkerType, Position, ReactFlow, type Edge, type Node, type NodeProps } from '@xyflow/react';
import '@xyflow/react/dist/base.css';
import { LINK_KINDS, type LinkKind } from '@violet-crate/core/link/thing';
import type { Finding } from '@violet-crate/core/finding';
import { thingOfEntry } from '@violet-crate/core/link/thing';
import { bytes, plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { KindIcon } from './KindIcon.tsx';
import { drawLinks, HEIGHT, WIDTH, type DrawnThing } from './layoutLinks.ts';
import type { Links } from './useLinks.ts';

interface Props {
  links: Links;
  roots: readonly string[];
  findings: readonly Finding[];
  chosen: string | null;
  choose(id: string): void;
}

type ThingNode = Node<{ thing: DrawnThing; chosen: boolean }, 'thing'>;
const NODE_TYPES = { thing: memo(ThingBox) };

/** From the maps outwards, from left to right; kinds folded, around one thing, or only what is wrong. */
export function LinkDiagram({ links, roots, findings, chosen, choose }: Props) {
  const [folded, setFolded] = useState<ReadonlySet<LinkKind>>(new Set(['script', 'function']));
  const [what, setWhat] = useState<'all' | 'around' | 'wrong'>('all');
  const kinds = useMemo(
    () => [...new Set([...links.graph.reach(roots)].map((id) => links.graph.thing(id).kind))].filter((kind) => kind !== 'game'),
    [links, roots],
  );
  const drawing = useMemo(() => {
    const { graph } = links;
    const all = graph.reach(roots);
    let ids = new Set([...all].filter((id) => graph.thing(id).kind !== 'game'));
    if (what === 'around' && chosen) ids = around(links, chosen);
    if (what === 'wrong') {
      const wrong = new Set(findings.flatMap(({ place }) => (place?.file ? [thingOfEntry(place.file)] : [])));
      for (const id of all) if (graph.thing(id).origin === 'missing') wrong.add(id);
      ids = new Set([...wrong].flatMap((id) => [...around(links, id)]));
    }
    return drawLinks(graph, { ids, folded });
  }, [links, roots, folded, what, chosen, findings]);
  const nodes = useMemo(
    () =>
      drawing.things.map((thing): ThingNode => ({
        id: thing.id,
        type: 'thing',
        position: { x: thing.x, y: thing.y },
        data: { thing, chosen: thing.id === chosen },
        width: WIDTH,
        height: HEIGHT,
        ariaLabel: `${LINK_KINDS[thing.kind]} ${thing.label}`,
      })),
    [drawing, chosen],
  );
  const edges = useMemo(
    () =>
      drawing.ties.map(({ from, to }): Edge => ({
        id: `${from} ${to}`,
        source: from,
        target: to,
        focusable: false,
        className: from === chosen || to === chosen ? 'chosen' : '',
        markerEnd: { type: MarkerType.ArrowClosed },
      })),
    [drawing, chosen],
  );
  const toggle = (kind: LinkKind) => {
    const next = new Set(folded);
    if (!next.delete(kind)) next.add(kind);
    setFolded(next);
  };
  return (
    <div className="link-diagram">
      <div className="d-flex gap-2 flex-wrap align-items-center">
        <div className="btn-group" role="group" aria-label="What is drawn">
          {(
            [
              ['all', 'Everything'],
              ['around', 'Around the chosen'],
              ['wrong', 'What is wrong'],
            ] as const
          ).map(([one, words]) => (
            <button
              key={one}
              className={`btn btn-quiet ${what === one ? 'active' : ''}`}
              aria-pressed={what === one}
              disabled={one === 'around' && !chosen}
              onClick={() => setWhat(one)}
            >
              {words}
            </button>
          ))}
        </div>
        <span className="faint">Fold</span>
        {kinds.map((kind) => (
          <button
            key={kind}
            className={`btn btn-quiet btn-sm ${folded.has(kind) ? 'active' : ''}`}
            aria-pressed={folded.has(kind)}
            onClick={() => toggle(kind)}
          >
            <KindIcon kind={kind} /> {LINK_KINDS[kind]}
          </button>
        ))}
        <span className="faint ms-auto" role="status">
          {plural(drawing.things.length, 'thing')}
        </span>
      </div>
      <div className="link-canvas">
        {drawing.things.length === 0 ? (
          <p className="p-3 faint">{what === 'wrong' ? 'Nothing is wrong with the links.' : 'Nothing to draw.'}</p>
        ) : (
          <ReactFlow
            key={`${what} ${[...folded].join()} ${what === 'around' ? chosen : ''}`}
            nodes={nodes}
            edges={edges}
            nodeTypes={NODE_TYPES}
            onNodeClick={(_, node) => (node.id.startsWith('fold:') ? toggle((node.data as { thing: DrawnThing }).thing.kind) : choose(node.id))}
            onSelectionChange={({ nodes: [one] }) => one && !one.id.startsWith('fold:') && choose(one.id)}
            nodesDraggable={false}
            nodesConnectable={false}
            onlyRenderVisibleElements
            minZoom={0.05}
            fitView
            fitViewOptions={{ maxZoom: 1 }}
            proOptions={{ hideAttribution: true }}
          >
            <Background gap={28} />
            <Controls showInteractive={false} />
          </ReactFlow>
        )}
      </div>
    </div>
  );
}

/** A thing with all that leads to it and what it needs by itself. */
function around({ graph }: Links, id: string): Set<string> {
  const ids = new Set([id]);
  for (const one of ids) for (const { from } of graph.neededBy(one)) ids.add(from);
  for (const { to } of graph.needsOf(id)) ids.add(to);
  return ids;
}

function ThingBox({ data: { thing, chosen } }: NodeProps<ThingNode>) {
  return (
    <div className={`link-box ${thing.missing ? 'missing' : ''} ${chosen ? 'chosen' : ''} ${thing.folded ? 'folded' : ''}`} title={thing.label}>
      <Handle type="target" position={Position.Left} isConnectable={false} />
      <KindIcon kind={thing.kind} />
      <span className="label">{thing.label}</span>
      {thing.missing ? (
        <span className="severity blocker">
          <Icon name="x-octagon-fill" /> missing
        </span>
      ) : (
        thing.bytes > 0 && <span className="faint">{bytes(thing.bytes)}</span>
      )}
      <Handle type="source" position={Position.Right} isConnectable={false} />
    </div>
  );
}
