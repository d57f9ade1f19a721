import { useMemo, useState } from 'react';
import { Modal } from 'react-bootstrap';
import { useNavigate } from 'react-router';
import { store } from '../state/store.ts';
import { appCommands } from './commands.ts';

/** All commands by typing: opened with Ctrl+K. */
export function CommandPalette({ close }: { close(): void }) {
  const navigate = useNavigate();
  const [query, setQuery] = useState('');
  const [at, setAt] = useState(0);
  const commands = useMemo(() => appCommands(navigate, store.getState), [navigate]);
  const words = query.toLowerCase().split(/\s+/);
  const found = commands.filter((command) => words.every((word) => `${command.group} ${command.label}`.toLowerCase().includes(word)));
  const run = (index: number) => {
    if (!found[index]) return;
    close();
    found[index].run();
  };
  return (
    <Modal show onHide={close} aria-label="Commands">
      <Modal.Body>
        <input
          className="form-control mb-2"
          autoFocus
          placeholder="What would you like to do?"
          aria-label="Search commands"
          value={query}
          onChange={(event) => {
            setQuery(event.target.value);
            setAt(0);
          }}
          onKeyDown={(event) => {
            if (event.key === 'ArrowDown') setAt(Math.min(found.length - 1, at + 1));
            else if (event.key === 'ArrowUp') setAt(Math.max(0, at - 1));
            else if (event.key === 'Enter') run(at);
            else return;
            event.preventDefault();
          }}
        />
        <div className="palette" role="listbox" aria-label="Commands">
          {found.map((command, i) => (
            <button key={command.id} role="option" aria-selected={i === at} onClick={() => run(i)} onMouseMove={() => setAt(i)}>
              <span className="flex-grow-1">{command.label}</span>
              <span className="faint small">{command.group}</span>
              {command.keys && <kbd>{command.keys}</kbd>}
            </button>
          ))}
          {found.length === 0 && <div className="p-3 faint">No command has these words.</div>}
        </div>
      </Modal.Body>
    </Modal>
  );
}
