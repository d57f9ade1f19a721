import { useEffect, useState } from 'react';
import { getJson, message, sendJson } from '../api/http.ts';
import type { Settings } from '../api/types.ts';

const FIELDS = [
  { id: 'depotUrl', label: 'Address of the depot' },
  { id: 'workshopUrl', label: 'Address of the workshop' },
] as const;

/** Where packs and tools come from, and where releases go. */
export function Addresses() {
  const [settings, setSettings] = useState<Settings | null>(null);
  const [note, setNote] = useState('');
  useEffect(() => {
    getJson<Settings>('/api/settings')
      .then(setSettings)
      .catch((error) => setNote(message(error)));
  }, []);
  const save = (id: (typeof FIELDS)[number]['id'], value: string) =>
    void sendJson<Settings>('PUT', '/api/settings', { [id]: value })
      .then((next) => {
        setSettings(next);
        setNote('');
      })
      .catch((error) => setNote(message(error)));
  return (
    <section className="panel mb-3" aria-label="Addresses">
      <header>
        <h2>Addresses</h2>
      </header>
      {settings &&
        FIELDS.map(({ id, label }) => (
          <form
            key={id}
            className="preference-row"
            onSubmit={(event) => {
              event.preventDefault();
              save(id, settings[id]);
            }}
          >
            <label htmlFor={`address-${id}`}>{label}</label>
            <input
              id={`address-${id}`}
              className="form-control mono"
              value={settings[id]}
              spellCheck={false}
              onChange={(event) => setSettings({ ...settings, [id]: event.target.value })}
            />
            <button className="btn btn-quiet btn-sm">Keep</button>
          </form>
        ))}
      {note && (
        <div className="severity blocker text-wrap p-2" role="alert">
          {note}
        </div>
      )}
    </section>
  );
}
