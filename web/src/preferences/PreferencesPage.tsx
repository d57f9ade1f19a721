import { useEffect, useState } from 'react';
import {
  PREFERENCES,
  valuesIn,
  type Preference,
  type PreferenceId,
  type Preferences,
  type PreferenceValue,
} from '@violet-crate/core/preferences/preferences';
import { Link } from 'react-router';
import { message } from '../api/http.ts';
import { Icon } from '../common/Icon.tsx';
import { PlainBar } from '../common/PlainBar.tsx';
import { saveFile } from '../common/saveFile.ts';
import { keySet, preferred, savePreferences } from '../state/preferencesSlice.ts';
import { store, useAppDispatch, useAppSelector } from '../state/store.ts';
import { ProgramTable } from '../opening/ProgramTable.tsx';
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
  /** The crate that one comes from can have values of its own. */
  const open = useAppSelector((s) => s.crate.view);
  const [own, setOwn] = useState(false);
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
  const crate = own && open ? open.id : undefined;
  const set = (id: PreferenceId, value: PreferenceValue | null) => {
    dispatch(preferred({ id, value, crate }));
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
  const values = valuesIn(preferences, crate);
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (...texts: string[]) => words.every((word) => texts.some((text) => text.toLowerCase().includes(word)));
  const shown = (PREFERENCES as readonly (Preference & { id: PreferenceId })[]).filter(
    ({ label, explains, group, byCrate }) => fits(label, explains, group) && (crate === undefined || byCrate),
  );
  return (
    <div className="d-flex flex-column h-100">
      <PlainBar />
      <main className="work flex-grow-1">
        <div className="page mx-auto preferences">
          <div className="d-flex align-items-center gap-2 mb-2 flex-wrap">
            <h1 className="m-0 flex-grow-1">Preferences</h1>
            {open && (
              <Link className="btn btn-quiet" role="button" to={`/crates/${open.id}/map`}>
                <Icon name="arrow-left" /> Back to the crate
              </Link>
            )}
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
          {open && (
            <div className="btn-group mb-3" role="group" aria-label="What these are for">
              {[false, true].map((one) => (
                <button
                  key={String(one)}
                  className={`btn btn-quiet ${own === one ? 'active' : ''}`}
                  aria-pressed={own === one}
                  onClick={() => setOwn(one)}
                >
                  {one ? `Only ${open.manifest.title}` : 'All crates'}
                </button>
              ))}
            </div>
          )}
          {crate !== undefined && <p className="faint">What is set here holds in this crate alone; everything else is as for all crates.</p>}
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
                    value={values[one.id]}
                    own={crate === undefined ? null : preferences.crates[crate]?.[one.id] !== undefined}
                    crates={Object.values(preferences.crates).filter((values) => values[one.id] !== undefined).length}
                    set={(value) => set(one.id, value)}
                  />
                ))}
              </section>
            );
          })}
          {crate === undefined && fits('programs that open sources edit') && <ProgramTable />}
          {crate === undefined && fits('depot workshop address') && <Addresses />}
          {crate === undefined && <KeyTable keys={preferences.keys} fits={fits} set={setKey} />}
          {shown.length === 0 && words.length > 0 && <p className="faint">No preference has these words; keys that fit are listed above.</p>}
        </div>
      </main>
    </div>
  );
}

/** @param own whether the crate has a value of its own; null where all crates are spoken of */
function PreferenceRow({
  preference,
  value,
  own,
  crates,
  set,
}: {
  preference: Preference & { id: PreferenceId };
  value: PreferenceValue;
  own: boolean | null;
  /** How many crates have a value of their own. */
  crates: number;
  set(value: PreferenceValue | null): void;
}) {
  const { id, label, explains, kind, choices, min, max, step, unit } = preference;
  const field = `preference-${id}`;
  return (
    <div className="preference-row" data-preference={id}>
      <div>
        <label htmlFor={field}>{label}</label>
        <div className="faint small">
          {explains}
          {own === true && ' Of this crate.'}
          {own === null && crates > 0 && ` ${crates} ${crates === 1 ? 'crate has' : 'crates have'} a value of their own.`}
        </div>
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
        disabled={own === null ? value === preference.default : !own}
        aria-label={`${label}: ${own === null ? 'back to how it was' : 'as for all crates'}`}
        onClick={() => set(null)}
      >
        <Icon name="arrow-counterclockwise" />
      </button>
    </div>
  );
}
