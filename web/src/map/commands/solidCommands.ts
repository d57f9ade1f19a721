/** What is done to solids and their faces. */

import { findUnseenFaces } from '@violet-crate/core/stages/unseenFaces';
import { membersBox } from '@violet-crate/core/map/member/members';
import { freshId, type Change } from '@violet-crate/core/document/edit';
import { replacedMaterial } from '@violet-crate/core/map/member/find';
import { faceAxes } from '@violet-crate/core/solid/projection';
import type { Solid } from '@violet-crate/core/document/schema';
import { boxSize } from '@violet-crate/core/math/box3';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { factOf } from '@violet-crate/core/profile/parts';
import { classOf } from '@violet-crate/core/profile/schema';
import {
  extrudeFace,
  hollowSolid,
  intersectSolids,
  mergeSolids,
  pushFace,
  ringCut,
  solidsOverlap,
  subtractSolid,
} from '@violet-crate/core/solid/cut';
import { selectWorld } from '../../state/world.ts';
import { changeFaces, paint, replaceSolids, type Made } from '../editing/edits.ts';
import { AXES, type MapCommand, type MapContext, apply, applyMade, axisIndex, eachFace, needFaces, needSolids, reshape } from './command.ts';
import { chosen, emptySelection, isShown } from '../../state/viewSlice.ts';

function triggerFromSolid({ map, profile, selection }: MapContext, classId: string): Made {
  const [id] = selection.solids;
  const solid = map.solids[id];
  const box = membersBox(map, profile, { ...emptySelection, solids: [id] })!;
  const objectId = freshId(map.objects, 'o');
  const taken = new Set(Object.values(map.objects).map((o) => o.name));
  let name = classId;
  for (let n = 2; taken.has(name); n++) name = `${classId}_${n}`;
  const definition = classOf(profile, classId)!;
  const properties = Object.fromEntries(definition.properties.map((p) => [p.id, p.id === 'size' ? boxSize(box) : p.default]));
  const position: Vec3 = [(box.min[0] + box.max[0]) / 2, (box.min[1] + box.max[1]) / 2, box.min[2]];
  return {
    edit: {
      name: `trigger of ${id}`,
      changes: [
        { of: 'solids', id, to: null },
        { of: 'objects', id: objectId, to: { class: classId, name, position, turn: 0, properties, shape: { faces: solid.faces } } },
      ],
    },
    selection: chosen({ kind: 'objects', ids: [objectId] }),
  };
}

export const SOLID_COMMANDS: readonly MapCommand[] = [
  {
    id: 'hollow',
    label: 'Hollow …',
    group: 'Solids',
    blocked: needSolids(1),
    asks: ({ profile }) => [
      { id: 'thickness', label: 'Wall thickness (negative: outwards)', value: profile.shellThickness, unit: profile.unit.plural },
    ],
    run: (c, { thickness }) =>
      reshape(c, 'hollow', (solids) => {
        const walls = solids.map((solid) => hollowSolid(solid, Number(thickness)));
        return walls.find((w) => typeof w === 'string') ?? (walls as Solid[][]).flat();
      }),
  },
  {
    id: 'subtract',
    label: 'Subtract from all it overlaps',
    group: 'Solids',
    blocked: needSolids(1),
    run: (c) => {
      const cutters = c.selection.solids.map((id) => c.map.solids[id]);
      const changed = Object.entries(c.map.solids).filter(
        ([id, solid]) =>
          !c.selection.solids.includes(id) && isShown(c.view, 'solids', id, solid.layer) && cutters.some((cutter) => solidsOverlap(solid, cutter)),
      );
      if (changed.length === 0) return 'It overlaps no other solid.';
      const pieces = changed.flatMap(([, solid]) =>
        cutters.reduce<Solid[]>((list, cutter) => list.flatMap((piece) => subtractSolid(piece, cutter)), [solid]),
      );
      return applyMade(c, replaceSolids(c.map, [...c.selection.solids, ...changed.map(([id]) => id)], pieces, 'subtract'));
    },
  },
  {
    id: 'intersect',
    label: 'Keep what they have in common',
    group: 'Solids',
    blocked: needSolids(2),
    run: (c) =>
      reshape(c, 'intersect', (solids) => {
        const common = intersectSolids(solids);
        return common ? [common] : 'They have nothing in common.';
      }),
  },
  {
    id: 'merge',
    label: 'Merge into one',
    group: 'Solids',
    keys: 'u',
    blocked: needSolids(2),
    run: (c) =>
      reshape(c, 'merge', (solids) => {
        const whole = mergeSolids(solids);
        return typeof whole === 'string' ? whole : [whole];
      }),
  },
  {
    id: 'ring-cut',
    label: 'Ring cut …',
    group: 'Solids',
    blocked: needSolids(1),
    asks: () => [
      { id: 'axis', label: 'Rings across', value: 'x', choices: AXES },
      { id: 'parts', label: 'Parts', value: 2 },
    ],
    run: (c, { axis, parts }) => {
      if (!(Number(parts) >= 2 && Number(parts) <= 64)) return 'Between 2 and 64 parts.';
      const along: Vec3 = [0, 0, 0];
      along[axisIndex(axis)] = 1;
      return reshape(c, 'ring cut', (solids) => solids.flatMap((solid) => ringCut(solid, along, Math.round(Number(parts)))));
    },
  },
  {
    id: 'detail',
    label: 'Mark as detail, or as structure again',
    group: 'Solids',
    blocked: needSolids(1),
    run: (c) => {
      const detail = !c.selection.solids.every((id) => c.map.solids[id].detail);
      return apply(c, {
        name: detail ? 'mark as detail' : 'mark as structure',
        changes: c.selection.solids.map((id): Change => ({ of: 'solids', id, to: { ...c.map.solids[id], detail: detail || undefined } })),
      });
    },
  },
  {
    id: 'trigger-from-solid',
    label: 'Make a trigger volume of it',
    group: 'Solids',
    blocked: needSolids(1),
    run: (c) => {
      const volume = c.profile.classes.find((k) => factOf(c.profile, k.id, 'takesForm'));
      if (!volume) return `${c.profile.title} has no trigger volumes.`;
      return applyMade(c, triggerFromSolid(c, volume.id));
    },
  },
  {
    id: 'push-out',
    label: 'Push the face out by a grid step',
    group: 'Faces',
    keys: 'Shift+PageUp',
    blocked: needFaces,
    run: (c) => eachFace(c, 'push face', (solid, face) => pushFace(solid, face, c.view.grid)),
  },
  {
    id: 'push-in',
    label: 'Pull the face in by a grid step',
    group: 'Faces',
    keys: 'Shift+PageDown',
    blocked: needFaces,
    run: (c) => eachFace(c, 'pull face', (solid, face) => pushFace(solid, face, -c.view.grid)),
  },
  {
    id: 'extrude',
    label: 'Extrude the face into a new solid …',
    group: 'Faces',
    blocked: needFaces,
    asks: ({ view, profile }) => [{ id: 'depth', label: 'Depth', value: view.grid, unit: profile.unit.plural }],
    run: (c, { depth }) => {
      const made = c.selection.faces.map(({ solid, face }) => extrudeFace(c.map.solids[solid], face, Number(depth)));
      const wrong = made.find((m) => typeof m === 'string');
      return wrong ?? applyMade(c, replaceSolids(c.map, [], made as Solid[], 'extrude face'));
    },
  },
  {
    id: 'paint',
    label: 'Paint with the current material',
    group: 'Faces',
    keys: 'p',
    blocked: needSolids(1),
    run: (c) => apply(c, paint(c.map, c.selection, c.view.material), `It has ${c.view.material} already.`),
  },
  {
    id: 'project-world',
    label: 'Project the texture from the world',
    group: 'Faces',
    blocked: needSolids(1),
    run: (c) =>
      apply(
        c,
        changeFaces(c.map, c.selection, ({ axes: _axes, ...face }) => face, 'project from the world'),
      ),
  },
  {
    id: 'project-face',
    label: 'Project the texture along the face',
    group: 'Faces',
    blocked: needSolids(1),
    run: (c) =>
      apply(
        c,
        changeFaces(c.map, c.selection, (face) => ({ ...face, axes: faceAxes(face.normal) }), 'project along the face'),
      ),
  },
  {
    id: 'replace-material',
    label: 'Replace a material everywhere …',
    group: 'Faces',
    asks: (c) => {
      const used = [...new Set(Object.values(c.map.solids).flatMap((s) => s.faces.map((f) => f.material)))].sort();
      return [
        { id: 'from', label: 'Replace', value: used[0] ?? '', choices: used },
        { id: 'to', label: 'By', value: c.view.material },
      ];
    },
    run: (c, { from, to }) => {
      const changes = Object.entries(c.map.solids).flatMap(([id, solid]): Change[] => {
        const next = replacedMaterial(solid, String(from), String(to));
        return next ? [{ of: 'solids', id, to: next }] : [];
      });
      return apply(c, changes.length > 0 ? { name: `replace ${from} by ${to}`, changes } : null, `No face has ${from}.`);
    },
  },
  {
    id: 'propose-unseen',
    label: 'Give faces that nothing can see the unseen material',
    group: 'Faces',
    run: (c) => {
      const world = selectWorld(c.state);
      const found = world ? findUnseenFaces(world, c.map) : null;
      if (!found) return 'The game has no material that is never drawn.';
      if (found.faces.length === 0) return 'No face is covered by others on all of its area.';
      return apply(
        c,
        changeFaces(
          c.map,
          { solids: [], faces: found.faces },
          (face) => ({ ...face, material: found.material }),
          `${found.faces.length} faces unseen`,
        ),
      );
    },
  },
];
