import { Icon } from '../../common/Icon.tsx';
import { startMapCommand } from '../commands/startMapCommand.ts';

export function SelectionButtons() {
  return (
    <span className="d-flex gap-1">
      <button className="btn btn-quiet btn-sm" title="Ctrl+D" onClick={() => startMapCommand('duplicate')}>
        <Icon name="copy" /> Duplicate
      </button>
      <button className="btn btn-quiet btn-sm" title="Delete" onClick={() => startMapCommand('delete')}>
        <Icon name="trash" /> Delete
      </button>
    </span>
  );
}
