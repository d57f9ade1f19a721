import { countMembers } from '@violet-crate/core/document/members';
import { Icon } from '../../common/Icon.tsx';
import { startMapCommand } from '../commands/startMapCommand.ts';
import { useDocument } from '../editing/useDocument.ts';
import { SelectionButtons } from './SelectionButtons.tsx';
import { ObjectInspector } from './ObjectInspector.tsx';
import { CopyInspector } from './CopyInspector.tsx';
import { SolidInspector } from './SolidInspector.tsx';
import { PathInspector } from './PathInspector.tsx';
import { MapInspector } from './MapInspector.tsx';

export function Inspector() {
  const { map, view } = useDocument();
  const { selection } = view;
  const solids = selection.solids.filter((id) => map.solids[id]);
  const objects = selection.objects.filter((id) => map.objects[id]);
  const copies = selection.copies.filter((id) => map.copies[id]);
  const paths = selection.paths.filter((id) => map.paths[id]);
  const kinds = [solids, objects, copies, paths].filter((ids) => ids.length > 0).length;
  if (kinds === 0) return <MapInspector />;
  if (kinds > 1) return <ManyKinds />;
  if (solids.length > 0) return <SolidInspector ids={solids} />;
  if (copies.length > 0) return <CopyInspector id={copies[0]} />;
  if (paths.length > 0) return <PathInspector id={paths[0]} />;
  return <ObjectInspector ids={objects} />;
}

function ManyKinds() {
  const { view } = useDocument();
  const { selection } = view;
  return (
    <>
      <div className="d-flex align-items-center">
        <h2 className="m-0 flex-grow-1">{countMembers(selection)} things</h2>
        <SelectionButtons />
      </div>
      <p className="faint small">
        {[
          [selection.solids.length, 'solids'],
          [selection.objects.length, 'objects'],
          [selection.copies.length, 'copies of prefabs'],
          [selection.paths.length, 'paths'],
        ]
          .filter(([n]) => Number(n) > 0)
          .map(([n, what]) => `${n} ${what}`)
          .join(', ')}
        . They move, turn, duplicate and are deleted together.
      </p>
      <button className="btn btn-quiet btn-sm" onClick={() => startMapCommand('make-prefab')}>
        <Icon name="boxes" /> Make a prefab <kbd>G</kbd>
      </button>
    </>
  );
}
