import { useState } from 'react';
import { keyClashes, type Preferences } from '@violet-crate/core/preferences/preferences';
import { Icon } from '../common/Icon.tsx';
import { keyLabel } from '../map/commands/CommandMenu.tsx';
import { keyName, commandKeys, MAP_COMMANDS } from '../map/commands/mapCommands.ts';

interface Props {
  keys: Preferences['keys'];
  fits(...texts: string[]): boolean;
  /** Gives a command another key; an empty one takes it away, null brings back its own. */
  set(command: string, key: string | null): void;
}

/** Keys of what is held down only: they are no key by themselves. */
const HELD = new Set(['Shift', 'Control', 'Alt', 'Meta']);

/** Every command of the map with its key, each of which can be another one. Keys that two commands share are told. */
export function KeyTable({ keys, fits, set }: Props) {
  const [listening, setListening] = useState('');
  const clashes = keyClashes(MAP_COMMANDS, keys);
  const clashing = new Map(
    [...clashes].flatMap(([key, ids]) => ids.map((id) => [id, { key, others: ids.filter((other) => other !== id) }] as const)),
  );
  const rows = MAP_COMMANDS.filter((command) => fits('key', command.label, command.group, commandKeys(command, keys) ?? ''));
  if (rows.length === 0) return null;
  return (
    <section className="panel mb-3" aria-label="Keys">
      <header>
        <h2>Keys of the map</h2>
        {clashes.size > 0 && (
          <span className="stamp blocked" role="status">
            <Icon name="x-octagon" /> {clashes.size} {clashes.size === 1 ? 'clash' : 'clashes'}
          </span>
        )}
      </header>
      {rows.map((command) => {
        const own = commandKeys(command, keys);
        const clash = clashing.get(command.id);
        const changed = Object.hasOwn(keys, command.id);
        return (
          <div key={command.id} className="preference-row" data-command={command.id}>
            <div>
              {command.label} <span className="faint small">{command.group.toLowerCase()}</span>
              {clash && (
                <div className="severity blocker small" role="alert">
                  {keyLabel(clash.key)} is also the key of {clash.others.map((id) => MAP_COMMANDS.find((one) => one.id === id)!.label).join(', ')}.
                </div>
              )}
            </div>
            <button
              className={`btn btn-quiet ${listening === command.id ? 'active' : ''}`}
              aria-label={`Key of ${command.label}: ${own ? keyLabel(own) : 'none'}`}
              onClick={() => setListening(command.id)}
              onBlur={() => setListening('')}
              onKeyDown={(event) => {
                if (listening !== command.id || event.key === 'Tab') return;
                event.preventDefault();
                event.stopPropagation();
                if (HELD.has(event.key)) return;
                if (event.key !== 'Escape') set(command.id, event.key === 'Backspace' || event.key === 'Delete' ? '' : keyName(event.nativeEvent));
                setListening('');
              }}
            >
              {listening === command.id ? 'Press a key …' : own ? <kbd>{keyLabel(own)}</kbd> : <span className="faint">none</span>}
            </button>
            <button
              className="btn btn-quiet btn-sm"
              disabled={!changed}
              aria-label={`${command.label}: back to its own key`}
              onClick={() => set(command.id, null)}
            >
              <Icon name="arrow-counterclockwise" />
            </button>
          </div>
        );
      })}
    </section>
  );
}
