import { countMembers, KINDS } from '@violet-crate/core/document/members';
import { factsOf } from '@violet-crate/core/map/member/members';
import { Icon } from '../common/Icon.tsx';
import { startMapCommand } from './commands/startMapCommand.ts';
import { useDocument } from './editing/useDocument.ts';
import { MapInspector } from './inspector/MapInspector.tsx';
import { SelectionButtons } from './commands/SelectionButtons.tsx';
import { memberLook } from './member/members.ts';

/** Properties of what is selected: of one kind by itself, of several together, and of the map where nothing is. */
export function Inspector() {
  const { map, view } = useDocument();
  const chosen = KINDS.map((kind) => ({ kind, ids: view.selection[kind].filter((id) => map[kind][id]) })).filter(({ ids }) => ids.length > 0);
  if (chosen.length === 0) return <MapInspector />;
  if (chosen.length > 1) return <ManyKinds />;
  const { Inspector: Fields } = memberLook(chosen[0].kind);
  return <Fields ids={chosen[0].ids} />;
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
        {KINDS.filter((kind) => selection[kind].length > 0)
          .map((kind) => `${selection[kind].length} ${selection[kind].length === 1 ? factsOf(kind).word : factsOf(kind).words}`)
          .join(', ')}
        . They move, turn, duplicate and are deleted together.
      </p>
      <button className="btn btn-quiet btn-sm" onClick={() => startMapCommand('make-prefab')}>
        <Icon name="boxes" /> Make a prefab <kbd>G</kbd>
      </button>
    </>
  );
}
