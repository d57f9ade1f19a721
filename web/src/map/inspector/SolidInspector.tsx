import { boxSize, type Box3 } from '@violet-crate/core/math/box3';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { round } from '../../common/format.ts';
import { useAppDispatch } from '../../state/store.ts';
import { paint, resize } from '../editing/edits.ts';
import { FacePanel } from './FacePanel.tsx';
import { CheckField, VectorField } from '../../common/fields.tsx';
import { MaterialPicker } from './MaterialPicker.tsx';
import { edited } from '../../state/mapSlice.ts';
import { startMapCommand } from '../commands/startMapCommand.ts';
import { useDocument } from '../editing/useDocument.ts';
import { selected, viewChanged } from '../../state/viewSlice.ts';
import { SelectionButtons } from '../commands/SelectionButtons.tsx';

export function SolidInspector({ ids }: { ids: string[] }) {
  const dispatch = useAppDispatch();
  const { map, profile, view } = useDocument();
  const { selection } = view;
  const solid = map.solids[ids[0]];
  const { box } = shapeOf(solid);
  const faces = selection.faces.filter((f) => map.solids[f.solid]?.faces[f.face]);
  const looked =
    faces.length > 0
      ? faces.map((f) => map.solids[f.solid].faces[f.face].material)
      : ids.flatMap((id) => map.solids[id].faces.map((f) => f.material));
  const used = new Set(looked).size === 1 ? looked[0] : '';
  const size = boxSize(box);
  const setBox = (to: Box3) => {
    if (to.max.every((v, i) => v - to.min[i] >= profile.grid.min)) dispatch(edited(resize(map, ids[0], to)));
  };
  return (
    <>
      <div className="d-flex align-items-center">
        <h2 className="m-0 flex-grow-1">{ids.length === 1 ? `Solid ${ids[0]}` : `${ids.length} solids`}</h2>
        <SelectionButtons />
      </div>
      {ids.length === 1 && (
        <>
          <VectorField
            isLength
            label="From"
            value={box.min}
            onCommit={(min) => setBox({ min, max: box.max.map((v, i) => v + min[i] - box.min[i]) as Vec3 })}
          />
          <VectorField
            isLength
            label="Size"
            value={size}
            onCommit={(next) => setBox({ min: box.min, max: box.min.map((v, i) => v + next[i]) as Vec3 })}
          />
          <div className="faint small mb-1">
            {size.map((v) => round(v * profile.unit.metres)).join(' × ')} m · {solid.faces.length} faces
          </div>
        </>
      )}
      <CheckField
        label="Detail"
        title="Drawn and solid, but does not seal"
        value={ids.every((id) => map.solids[id].detail)}
        onCommit={() => startMapCommand('detail')}
      />
      {selection.corners.length > 0 && (
        <div className="faint small">{selection.corners.length} corners selected: drag them, or nudge with the arrow keys.</div>
      )}
      <div className="d-flex align-items-center mt-2 mb-1">
        <h3 className="m-0 flex-grow-1">
          Material {faces.length === 0 ? 'of all faces' : faces.length === 1 ? 'of this face' : `of ${faces.length} faces`}
        </h3>
        {faces.length > 0 && (
          <button className="btn btn-quiet btn-sm py-0" onClick={() => dispatch(selected({ kind: 'solids', ids }))}>
            All faces
          </button>
        )}
      </div>
      {faces.length === 0 && ids.length === 1 && <div className="faint small mb-1">To paint one face, click it in the perspective view.</div>}
      <MaterialPicker
        value={used}
        onPick={(material) => {
          const edit = paint(map, selection, material);
          if (edit) dispatch(edited(edit));
          dispatch(viewChanged({ material }));
        }}
      />
      <FacePanel />
    </>
  );
}
