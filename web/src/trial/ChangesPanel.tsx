import type { GameMap } from '@violet-crate/core/document/schema';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { LiveEdit } from '@violet-crate/core/trial/liveMap';
import { edited } from '../state/mapSlice.ts';
import { useAppDispatch } from '../state/store.ts';
import { keepEdit, runChanges, type RunChange } from './keep.ts';
import type { TrialRun } from './trialRun.ts';

interface Props {
  profile: Profile;
  map: GameMap;
  run: TrialRun | null;
}

/** What the run has made of the map's objects: to be kept in the map, or put back. */
export function ChangesPanel({ profile, map, run }: Props) {
  const dispatch = useAppDispatch();
  const changes = run ? runChanges(profile, map, run.objects.values()) : [];
  const keep = (kept: RunChange[]) => dispatch(edited(keepEdit(kept)));
  const putBack = (back: RunChange[]) => run?.edit(backEdit(map, back));
  if (changes.length === 0)
    return <p className="faint p-2 mb-0">Nothing differs from the map. What you move, and what scripts set, is listed here.</p>;
  return (
    <div className="trial-list">
      <div className="d-flex gap-2 p-2 border-bottom">
        <button className="btn btn-primary btn-sm" onClick={() => keep(changes)}>
          Keep all
        </button>
        <button className="btn btn-quiet btn-sm" onClick={() => putBack(changes)}>
          Put all back
        </button>
      </div>
      <ul aria-label="What differs from the map">
        {changes.map((change) => (
          <li key={change.id}>
            <div>
              <strong>{change.name}</strong>
              <div className="faint small">{change.says.join(' · ')}</div>
            </div>
            <button className="btn btn-quiet btn-sm" onClick={() => keep([change])} aria-label={`Keep ${change.name}`}>
              Keep
            </button>
            <button className="btn btn-quiet btn-sm" onClick={() => putBack([change])} aria-label={`Put ${change.name} back`}>
              Put back
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** Objects anew as the map has them. */
const backEdit = (map: GameMap, changes: readonly RunChange[]): LiveEdit => ({
  objects: Object.fromEntries(changes.map(({ id }) => [id, map.objects[id]])),
  anew: true,
  solids: {},
  signals: null,
  paths: null,
  models: {},
  bodies: {},
  left: [],
});
