import { useEffect, useState } from 'react';
import { PREFERENCES, type Preference, type PreferenceId, type Preferences, type PreferenceValue } from '@violet-crate/core/preferences/preferences';
import { message } from '../api/http.ts';
import { Icon } from '../common/Icon.tsx';
import { PlainBar } from '../common/PlainBar.tsx';
import { saveFile } from '../common/saveFile.ts';
import { keySet, preferred, savePreferences } from '../state/preferencesSlice.ts';
import { store, useAppDispatch, useAppSelector } from '../state/store.ts';
import { Addresses } from './Addresses.tsx';
import { KeyTable } from './KeyTable.tsx';
import './preferences.css';

const GROUPS = [...new Set(PREFERENCES.map(({ group }) => group))];

/** What the user prefers: kept on the server, taken out and in as a file, found by searching. */
export function PreferencesPage() {
  const dispatch = useAppDispatch();
  const preferences = useAppSelector((s) => s.preferences);
  const [wanted, setWanted] = useState('');
  const [note, setNote] = useState('');
  useEffect(() => {
    document.title = 'Preferences – Violet Crate';
  }, []);

  const save = (change: Partial<Preferences> = {}) =>
    void dispatch(savePreferences({ ...store.getState().preferences, ...change }))
      .unwrap()
      .then(({ left }) =>
        setNote(left.length > 0 ? `Left out, since it is not known or cannot be: ${left.slice(0, 5).join(', ')}${left.length > 5 ? ' …' : ''}.` : ''),
      )
      .catch((error: unknown) => setNote(`Not kept: ${message(error)}`));
  const set = (id: PreferenceId, value: PreferenceValue) => {
    dispatch(preferred({ id, value }));
    save();
  };
  const setKey = (command: string, key: string | null) => {
    dispatch(keySet({ command, key }));
    save();
  };
  const takeIn = async (file: File | undefined) => {
    if (!file) return;
    try {
      save(JSON.parse(await file.text()) as Preferences);
    } catch {
      setNote(`${file.name} is no JSON, so nothing was changed.`);
    }
  };
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (...texts: string[]) => words.every((word) => texts.some((text) => text.toLowerCase().includes(word)));
  const shown = (PREFERENCES as readonly Preference[]).filter(({ label, explains, group }) => fits(label, explains, group));
  return (
    <div className="d-flex flex-column h-100">
      <PlainBar />
      <main className="work flex-grow-1">
        <div className="page mx-auto preferences">
          <div className="d-flex align-items-center gap-2 mb-2 flex-wrap">
            <h1 className="m-0 flex-grow-1">Preferences</h1>
            <label className="btn btn-quiet m-0">
              <Icon name="upload" /> Take in a file
              <input type="file" accept=".json" className="visually-hidden" onChange={(event) => void takeIn(event.target.files?.[0])} />
            </label>
            <button
              className="btn btn-quiet"
              onClick={() => saveFile('preferences.json', new Blob([`${JSON.stringify(preferences, null, 2)}\n`], { type: 'application/json' }))}
            >
              <Icon name="download" /> Take out as a file
            </button>
          </div>
          <input
            className="form-control mb-3"
            type="search"
            placeholder="Search preferences and keys"
            aria-label="Search preferences and keys"
            value={wanted}
            onChange={(event) => setWanted(event.target.value)}
          />
          {note && (
            <div className="severity warning text-wrap mb-2" role="alert">
              {note}
            </div>
          )}
          {GROUPS.map((group) => {
            const rows = shown.filter((one) => one.group === group);
            if (rows.length === 0) return null;
            return (
              <section key={group} className="panel mb-3" aria-label={group}>
                <header>
                  <h2>{group}</h2>
                </header>
                {rows.map((one) => (
                  <PreferenceRow
                    key={one.id}
                    preference={one}
                    value={preferences.values[one.id as PreferenceId]}
                    set={(value) => set(one.id as PreferenceId, value)}
                  />
                ))}
              </section>
            );
          })}
          {fits('depot workshop address') && <Addresses />}
          <KeyTable keys={preferences.keys} fits={fits} set={setKey} />
          {shown.length === 0 && words.length > 0 && <p className="faint">No preference has these words; keys that fit are listed above.</p>}
        </div>
      </main>
    </div>
  );
}

function PreferenceRow({ preference, value, set }: { preference: Preference; value: PreferenceValue; set(value: PreferenceValue): void }) {
  const { id, label, explains, kind, choices, min, max, step, unit } = preference;
  const field = `preference-${id}`;
  return (
    <div className="preference-row" data-preference={id}>
      <div>
        <label htmlFor={field}>{label}</label>
        <div className="faint small">{explains}</div>
      </div>
      {kind === 'switch' ? (
        <div className="form-check form-switch">
          <input
            id={field}
            type="checkbox"
            role="switch"
            className="form-check-input"
            checked={value === true}
            onChange={(event) => set(event.target.checked)}
          />
        </div>
      ) : kind === 'choice' ? (
        <select id={field} className="form-select" value={String(value)} onChange={(event) => set(event.target.value)}>
          {choices!.map((one) => (
            <option key={one.value} value={one.value}>
              {one.label}
            </option>
          ))}
        </select>
      ) : (
        <div className="d-flex gap-2 align-items-center">
          <input
            id={field}
            type="range"
            className="form-range"
            min={min}
            max={max}
            step={step}
            value={Number(value)}
            onChange={(event) => set(Number(event.target.value))}
          />
          <output htmlFor={field} className="mono text-nowrap">
            {Number(value)}
            {unit}
          </output>
        </div>
      )}
      <button
        className="btn btn-quiet btn-sm"
        disabled={value === preference.default}
        aria-label={`${label}: back to how it was`}
        onClick={() => set(preference.default)}
      >
        <Icon name="arrow-counterclockwise" />
      </button>
    </div>
  );
}
