import type { ChangedFile } from '../api/types.ts';
import { Icon } from '../common/Icon.tsx';

const ICONS: Record<ChangedFile['how'], string> = {
  added: 'plus-circle',
  changed: 'pencil',
  removed: 'dash-circle',
  'in conflict': 'signpost-split',
};

/** Files that were changed, and what of maps in words; `show` takes one to the plan. */
export function ChangeList({ changes, show }: { changes: readonly ChangedFile[]; show?(change: ChangedFile): void }) {
  return (
    <ul className="change-list">
      {changes.map((change) => (
        <li key={change.path} data-change={change.path}>
          <div className="d-flex gap-2 align-items-baseline">
            <Icon name={ICONS[change.how]} />
            <code className="flex-grow-1">{change.path}</code>
            <span className="faint small">{change.how}</span>
            {show && change.difference && (
              <button className="btn btn-quiet btn-sm py-0" onClick={() => show(change)}>
                Show on the plan
              </button>
            )}
          </div>
          {change.difference?.words.map((words) => (
            <div key={words} className="ps-4 small">
              {words}
            </div>
          ))}
        </li>
      ))}
    </ul>
  );
}
