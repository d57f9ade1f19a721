import { Icon } from '../../common/Icon.tsx';
import { startMapCommand } from './startMapCommand.ts';

export function SelectionButtons() {
  return (
    <span className="d-flex gap-1">
      <button className="btn btn-quiet btn-sm" aria-label="Duplicate" title="Duplicate (Ctrl+D)" onClick={() => startMapCommand('duplicate')}>
        <Icon name="copy" />
      </button>
      <button className="btn btn-quiet btn-sm" aria-label="Delete" title="Delete (Delete)" onClick={() => startMapCommand('delete')}>
        <Icon name="trash" />
      </button>
    </span>
  );
}
