import { memo, useMemo } from 'react';
import { graphlib, layout } from '@dagrejs/dagre';
import { Background, Controls, Handle, MarkerType, Position, ReactFlow, type Edge, type Node, type NodeProps } from '@xyflow/react';
import '@xyflow/react/dist/base.css';
import type { Talk } from '@violet-crate/core/talk/document';
import { EMPTY_MIND, stepWords, TalkMachine, testWords } from '@violet-crate/core/talk/run';

type StepNode = Node<{ words: string; chosen: boolean }, 'step'>;
const NODE_TYPES = { step: memo(StepBox) };
const [WIDTH, HEIGHT] = [200, 30];
/** Steps that are drawn: more are a wall, and the layout takes more than linear time. */
const MOST = 250;

interface Props {
  talk: Talk;
  chosen: number;
  choose(n: number): void;
}

/** A conversation as a graph: from each step to those that can come next. */
export function TalkGraph({ talk, chosen, choose }: Props) {
  const ties = useMemo(() => waysOf(talk), [talk]);
  const places = useMemo(() => {
    const graph = new graphlib.Graph();
    graph.setGraph({ rankdir: 'TB', nodesep: 24, ranksep: 30 });
    graph.setDefaultEdgeLabel(() => ({}));
    const ids = new Set(ties.flatMap(({ from, to }) => [from, to]));
    for (const id of ids) graph.setNode(String(id), { width: WIDTH, height: HEIGHT });
    for (const { from, to } of ties) graph.setEdge(String(from), String(to));
    layout(graph);
    return [...ids].map((id) => ({ id, ...(graph.node(String(id)) as { x: number; y: number }) }));
  }, [ties]);
  const nodes = places.map(({ id, x, y }): StepNode => {
    const step = talk.steps[id];
    return {
      id: String(id),
      type: 'step',
      position: { x: x - WIDTH / 2, y: y - HEIGHT / 2 },
      data: { words: step ? `${id + 1}. ${stepWords(step)}` : 'The end', chosen: id === chosen },
      width: WIDTH,
      height: HEIGHT,
      ariaLabel: step ? `Step ${id + 1}: ${stepWords(step)}` : 'The end',
    };
  });
  const edges = ties.map(({ from, to, words }): Edge => ({
    id: `${from} ${to} ${words}`,
    source: String(from),
    target: String(to),
    label: words || undefined,
    focusable: false,
    markerEnd: { type: MarkerType.ArrowClosed },
  }));
  return (
    <div className="talk-graph">
      {talk.steps.length > MOST && (
        <p className="faint small mb-0 p-1">
          The first {MOST} of {talk.steps.length} steps.
        </p>
      )}
      <ReactFlow
        nodes={nodes}
        edges={edges}
        nodeTypes={NODE_TYPES}
        fitView
        fitViewOptions={{ maxZoom: 1 }}
        proOptions={{ hideAttribution: true }}
        minZoom={0.1}
        nodesDraggable={false}
        nodesConnectable={false}
        onNodeClick={(_, node) => Number(node.id) >= 0 && choose(Number(node.id))}
        onSelectionChange={({ nodes: [node] }) => node && Number(node.id) >= 0 && choose(Number(node.id))}
      >
        <Background />
        <Controls showInteractive={false} />
      </ReactFlow>
    </div>
  );
}

/** From where to where it can go; -1 is the end. What needs no box of its own (labels, going, blocks) is passed through. */
function waysOf(talk: Talk): { from: number; to: number; words: string }[] {
  const machine = new TalkMachine(talk);
  const ways: { from: number; to: number; words: string }[] = [];
  const through = (at: number | null, seen = new Set<number>()): number => {
    if (at === null) return -1;
    const step = talk.steps[at];
    if (seen.has(at) || !['label', 'go', 'else', 'end'].includes(step.do)) return at;
    return through(machine.next({ at, mind: EMPTY_MIND }).at, seen.add(at));
  };
  talk.steps.slice(0, MOST).forEach((step, n) => {
    const state = { at: n, mind: EMPTY_MIND };
    const add = (to: number | null, words = '') => void ways.push({ from: n, to: through(to), words });
    if (['label', 'go', 'else', 'end', 'option', 'won', 'lost', 'again'].includes(step.do)) return;
    if (step.do === 'if') {
      const { test } = step;
      const yes =
        'flag' in test
          ? { ...EMPTY_MIND, flags: new Set(test.on ? [test.flag] : []) }
          : 'has' in test
            ? { ...EMPTY_MIND, items: { [test.has]: 1 } }
            : { ...EMPTY_MIND, values: { [test.value]: test.is === '<' ? test.than - 1 : test.is === '>' ? test.than + 1 : test.than } };
      const no =
        'flag' in test
          ? { ...EMPTY_MIND, flags: new Set(test.on ? [] : [test.flag]) }
          : 'has' in test
            ? EMPTY_MIND
            : { ...EMPTY_MIND, values: { [test.value]: test.is === '<' ? test.than : test.is === '>' ? test.than : test.than + 1 } };
      add(machine.next({ at: n, mind: yes }).at, testWords(test).slice(0, 24));
      add(machine.next({ at: n, mind: no }).at, 'otherwise');
    } else if (step.do === 'choose') {
      for (let i = n + 1; i < talk.steps.length && talk.steps[i].depth > step.depth; i++) {
        const option = talk.steps[i];
        if (option.do === 'option' && option.depth === step.depth + 1) add(machine.next(state, { option: i }).at, option.text.slice(0, 28));
      }
    } else if (step.do === 'contest') {
      add(machine.next(state, { won: true }).at, 'won');
      add(machine.next(state, { won: false }).at, 'lost');
      if (step.flag !== undefined) add(machine.next({ at: n, mind: { ...EMPTY_MIND, flags: new Set([step.flag]) } }).at, 'won before');
    } else add(machine.next(state).at);
  });
  return ways;
}

function StepBox({ data: { words, chosen } }: NodeProps<StepNode>) {
  return (
    <div className={`talk-node ${chosen ? 'chosen' : ''}`} title={words}>
      <Handle type="target" position={Position.Top} isConnectable={false} />
      {words}
      <Handle type="source" position={Position.Bottom} isConnectable={false} />
    </div>
  );
}
