import { Dropdown } from 'react-bootstrap';
import { Icon } from '../../common/Icon.tsx';
import { store, useAppSelector } from '../../state/store.ts';
import { commandKeys, MAP_COMMANDS, mapContext, type MapCommand } from './mapCommands.ts';
import { startMapCommand } from './startMapCommand.ts';

/** A menu of commands; those that cannot be run now say why when pointed at. */
export function CommandMenu({ label, icon, groups }: { label: string; icon: string; groups: readonly MapCommand['group'][] }) {
  const context = mapContext(store.getState(), store.dispatch);
  const chosen = useAppSelector((s) => s.preferences.keys);
  return (
    <Dropdown>
      <Dropdown.Toggle className="btn-quiet" variant="quiet" id={`menu-${label.toLowerCase()}`}>
        <Icon name={icon} /> {label}
      </Dropdown.Toggle>
      <Dropdown.Menu style={{ maxHeight: '70vh', overflow: 'auto' }} renderOnMount={false}>
        {groups.map((group) => (
          <div key={group}>
            {groups.length > 1 && <Dropdown.Header>{group}</Dropdown.Header>}
            {MAP_COMMANDS.filter((c) => c.group === group).map((command) => {
              const blocked = context ? (command.blocked?.(context) ?? null) : null;
              return (
                <Dropdown.Item
                  as="button"
                  key={command.id}
                  aria-disabled={blocked !== null}
                  className={`d-flex gap-3 ${blocked ? 'faint' : ''}`}
                  title={blocked ?? undefined}
                  onClick={() => startMapCommand(command.id)}
                >
                  <span className="flex-grow-1">{command.label}</span>
                  {keyWords(command, chosen) && <kbd>{keyWords(command, chosen)}</kbd>}
                </Dropdown.Item>
              );
            })}
          </div>
        ))}
      </Dropdown.Menu>
    </Dropdown>
  );
}

/** Keys as people read them. */
export const keyLabel = (keys: string): string => keys.replace(/\b[a-z]$/, (letter) => letter.toUpperCase());

/** The keys of a command in words; undefined where it has none. */
export function keyWords(command: Pick<MapCommand, 'id' | 'keys'>, chosen: Readonly<Record<string, string>>): string | undefined {
  const keys = commandKeys(command, chosen);
  return keys && keyLabel(keys);
}
