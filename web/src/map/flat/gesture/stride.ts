import { drawLabel } from '../../../common/sheet.ts';
import { PLAYER, type Sequence } from '@violet-crate/core/document/schema';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { gesture, type Scene } from './gesture.ts';

interface Stride {
  /** Step whose place is dragged; a new one where it is past the last. */
  n: number;
  to: Vec3;
}

const REACH = 10;

const sequenceOf = ({ doc: { map, view } }: Scene): Sequence | null =>
  view.panel === 'people' && Object.hasOwn(map.sequences, view.scene) ? map.sequences[view.scene] : null;

/** On the floor below the point of the plan. */
function placeAt({ doc: { snap }, projection }: Scene, at: readonly [number, number]): Vec3 {
  const [x, y, z] = projection.pointAt([at[0], at[1]]);
  return [snap(x), snap(y), z];
}

/** Places of a movement sequence: dragged, or added by clicks while the panel of people asks for them. */
export const stride = gesture<Stride>({
  id: 'stride',
  begin(scene, { at, sheet }) {
    const sequence = sequenceOf(scene);
    if (!sequence || scene.projection.id !== 'plan') return null;
    for (const [n, step] of sequence.steps.entries()) {
      if (step.do !== 'walk') continue;
      const [u, v] = scene.projection.project(step.to);
      if (Math.hypot(u - at[0], v - at[1]) * sheet.scale <= REACH) return { state: { n, to: step.to } };
    }
    return scene.doc.view.sceneAdding ? { state: { n: sequence.steps.length, to: placeAt(scene, at) } } : null;
  },
  drag: ({ n }, scene, { at }) => ({ n, to: placeAt(scene, at) }),
  commit: put,
  click: (state, scene) => (state.n === sequenceOf(scene)?.steps.length ? put(state, scene) : null),
  draw({ context, place, colours }, { to }, scene) {
    const [x, y] = place(scene.projection.project(to));
    drawLabel(context, to.map((v) => Math.round(v)).join(', '), x + 10, y - 10, colours.warm, colours.ground);
  },
});

function put({ n, to }: Stride, scene: Scene) {
  const sequence = sequenceOf(scene);
  const { view } = scene.doc;
  if (!sequence) return null;
  const known = sequence.steps[n];
  const steps =
    known?.do === 'walk'
      ? sequence.steps.map((step, i) => (i === n ? { ...known, to } : step))
      : [...sequence.steps, { who: view.sceneWho || PLAYER, do: 'walk' as const, to, wait: true }];
  return {
    edit: {
      name: known ? 'move a place' : 'a place to walk to',
      changes: [{ of: 'sequences' as const, id: view.scene, to: { ...sequence, steps } }],
    },
  };
}
