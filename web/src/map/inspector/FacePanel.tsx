import { fitProjection, faceAxes, texelDensity, wrapProjection } from '@violet-crate/core/solid/projection';
import type { Face } from '@violet-crate/core/document/schema';
import { assetRecord, findMaterial } from '@violet-crate/core/crate/world';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { round } from '../../common/format.ts';
import { LuxelFactor } from '../../common/LuxelFactor.tsx';
import { selectWorld } from '../../state/world.ts';
import { store, useAppDispatch } from '../../state/store.ts';
import { changeFaces } from '../editing/edits.ts';
import { Field, NumberField } from '../../common/fields.tsx';
import { edited } from '../../state/mapSlice.ts';
import { useDocument } from '../editing/useDocument.ts';

const pair = (face: Face): [number, number] => (Array.isArray(face.scale) ? face.scale : [face.scale ?? 1, face.scale ?? 1]);

/** How the texture lies on the selected faces, or on all faces of the selected solids. */
export function FacePanel() {
  const dispatch = useAppDispatch();
  const { map, profile, view } = useDocument();
  const { selection } = view;
  const [first] = selection.faces;
  const solid = map.solids[first?.solid ?? selection.solids[0]];
  const face = solid?.faces[first?.face ?? 0];
  if (!face) return null;
  const world = selectWorld(store.getState());
  const material = world && findMaterial(world, face.material)?.material;
  const unitsPerRepeat = material?.unitsPerRepeat ?? profile.textures.unitsPerRepeat;
  const texels = (material?.texture && world && assetRecord(world, material.texture)?.width) || 256;
  const density = texelDensity(face, unitsPerRepeat, texels, profile.unit.metres);
  const change = (make: (face: Face, solid: string, index: number) => Face, name: string) => {
    const edit = changeFaces(map, selection, make, name);
    if (edit) dispatch(edited(edit));
  };
  const [sx, sy] = pair(face);
  const fit = (repeats: [number, number]) =>
    change((f, id, index) => {
      const polygon = shapeOf(map.solids[id]).polygons.find((p) => p.face === index);
      return polygon ? fitProjection(f, polygon.winding, unitsPerRepeat, repeats) : f;
    }, 'fit texture');
  /** Faces of the same solid that share an edge with the first one continue its texture. */
  const wrap = () => {
    if (!first) return;
    const polygons = shapeOf(solid).polygons;
    const own = polygons.find((p) => p.face === first.face);
    if (!own) return;
    const touches = (winding: readonly (readonly number[])[]) =>
      winding.filter((p) => own.winding.some((q) => Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]) < 0.01)).length >= 2;
    const neighbours = polygons.filter((p) => p !== own && touches(p.winding)).map((p) => ({ solid: first.solid, face: p.face }));
    const edit = changeFaces(map, { solids: [], faces: neighbours }, (f) => wrapProjection(face, f), 'continue texture around the corner');
    if (edit) dispatch(edited(edit));
  };
  return (
    <>
      <h3>
        Texture {selection.faces.length > 0 ? `of ${selection.faces.length === 1 ? 'this face' : `${selection.faces.length} faces`}` : 'of all faces'}
      </h3>
      <div className="d-flex gap-2">
        <NumberField
          label="Shift right"
          value={round(face.shift?.[0] ?? 0)}
          onCommit={(v) => change((f) => ({ ...f, shift: [v, f.shift?.[1] ?? 0] }), 'shift texture')}
        />
        <NumberField
          label="Shift up"
          value={round(face.shift?.[1] ?? 0)}
          onCommit={(v) => change((f) => ({ ...f, shift: [f.shift?.[0] ?? 0, v] }), 'shift texture')}
        />
      </div>
      <div className="d-flex gap-2">
        <NumberField
          label="Scale across"
          value={round(sx)}
          onCommit={(v) => v !== 0 && change((f) => ({ ...f, scale: [v, pair(f)[1]] }), 'scale texture')}
        />
        <NumberField
          label="Scale along"
          value={round(sy)}
          onCommit={(v) => v !== 0 && change((f) => ({ ...f, scale: [pair(f)[0], v] }), 'scale texture')}
        />
      </div>
      <div className="d-flex gap-2">
        <NumberField label="Turn" unit="°" value={face.turn ?? 0} onCommit={(turn) => change((f) => ({ ...f, turn }), 'turn texture')} />
        <NumberField
          label="Texels per m"
          value={round(density)}
          min={0.01}
          onCommit={(wanted) =>
            change((f) => {
              const now = texelDensity(f, unitsPerRepeat, texels, profile.unit.metres);
              const factor = now / wanted;
              return { ...f, scale: [pair(f)[0] * factor, pair(f)[1] * factor] };
            }, 'set texel density')
          }
        />
      </div>
      <Field label="Light" id="face-luxel">
        <LuxelFactor
          id="face-luxel"
          value={face.luxel}
          otherwise="as its material says"
          onChange={(luxel) => change(({ luxel: _l, ...f }) => (luxel ? { ...f, luxel } : f), 'fineness of light')}
        />
      </Field>
      <div className="d-flex flex-wrap gap-1 mt-1">
        <button className="btn btn-quiet btn-sm py-0" onClick={() => fit([1, 1])} title="One repeat covers the face">
          Fit
        </button>
        <button
          className="btn btn-quiet btn-sm py-0"
          onClick={() => change((f) => ({ ...f, scale: [-pair(f)[0], pair(f)[1]] }), 'mirror texture')}
          title="Left and right change places"
        >
          Mirror
        </button>
        <button className="btn btn-quiet btn-sm py-0" onClick={() => change(({ axes: _axes, ...f }) => f, 'project from the world')}>
          From the world
        </button>
        <button className="btn btn-quiet btn-sm py-0" onClick={() => change((f) => ({ ...f, axes: faceAxes(f.normal) }), 'project along the face')}>
          Along the face
        </button>
        <button
          className="btn btn-quiet btn-sm py-0"
          disabled={!first}
          title={first ? 'Neighbouring faces continue this texture without a seam' : 'Select one face first'}
          onClick={wrap}
        >
          Around the corner
        </button>
        <button
          className="btn btn-quiet btn-sm py-0"
          onClick={() => change(({ axes: _a, shift: _s, scale: _c, turn: _t, ...f }) => f, 'texture as it was')}
          title="As a new face has it"
        >
          Reset
        </button>
      </div>
    </>
  );
}
