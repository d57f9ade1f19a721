import { useMemo, useState } from 'react';
import { loadProfile } from '@violet-crate/core/profile/load';
import { ProfileSchema, type Profile } from '@violet-crate/core/profile/schema';
import { listFromCsv, listToCsv, PROFILE_LISTS, type ProfileList } from '@violet-crate/core/setup/profileLists';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { message, sendJson } from '../api/http.ts';
import type { ProfileEntry, Profiles, SetupCheck, StepState } from '../api/types.ts';
import { FolderPicker } from '../common/FolderPicker.tsx';
import { Icon } from '../common/Icon.tsx';
import { saveFile } from '../common/saveFile.ts';
import { JsonEditor } from './JsonEditor.tsx';
import { ProfileChanges, type Consequences } from './ProfileChanges.tsx';
import { ProfileChecks } from './ProfileChecks.tsx';
import { put, type Json } from './schema.ts';
import { SchemaForm } from './SchemaForm.tsx';

/** The parts of a profile that have a form, in the order in which one describes a game. */
const PARTS = [
  { title: 'Basics', names: ['title', 'description', 'version', 'unit', 'grid', 'band', 'shellThickness', 'minThickness', 'sealed'] },
  { title: 'Player', names: ['player', 'maxPlayers'] },
  { title: 'Names', names: ['naming'] },
  { title: 'Assets', names: ['models', 'textures', 'sounds', 'materialTypes', 'surfaces', 'defaultMaterial'] },
  { title: 'Classes', names: ['classes', 'required', 'requiredPrefabs'], list: 'classes' },
  { title: 'Scripts', names: ['scripts'], list: 'api' },
  { title: 'Land and map', names: ['ground', 'zoneUses', 'mapPicture', 'mapIcons'] },
  { title: 'Install and tools', names: ['install', 'preparation', 'programs', 'launch'] },
  { title: 'Limits', names: ['budgets', 'lighting', 'package'] },
] as const satisfies readonly { title: string; names: readonly (keyof typeof ProfileSchema.properties)[]; list?: ProfileList }[];
const LIST_WORDS: Record<ProfileList, string> = { classes: 'Classes', api: 'Functions of scripts' };

/** Edits one profile: by forms made of the schema, or as JSON. It is tried and compared before it is kept. */
export function ProfileEditor({ entry, saved, onSaved }: { entry: ProfileEntry; saved: string; onSaved(list: Profiles): void }) {
  const [text, setText] = useState(saved);
  const [tab, setTab] = useState<'form' | 'json'>('form');
  const [part, setPart] = useState(0);
  const [choosing, setChoosing] = useState(false);
  const [tried, setTried] = useState<{ folder: string; checks: SetupCheck[]; steps: StepState[] } | null>(null);
  const [consequences, setConsequences] = useState<Consequences | null>(null);
  const [problem, setProblem] = useState('');
  const fail = (error: unknown) => setProblem(message(error));
  const document = useMemo(() => {
    try {
      return JSON.parse(text) as Json;
    } catch {
      return null;
    }
  }, [text]);
  const wrong = useMemo(() => {
    try {
      loadProfile(text, 'the profile');
      return null;
    } catch (error) {
      return error instanceof UnreadableInput ? error.message : message(error);
    }
  }, [text]);
  const dirty = text !== saved;
  const write = (value: Json) => setText(`${JSON.stringify(value, null, 2)}\n`);
  const look = () =>
    void sendJson<Consequences>('POST', `/api/profiles/${entry.id}/changes`, { text })
      .then((answer) => {
        setConsequences(answer);
        setProblem('');
      })
      .catch(fail);
  const save = () =>
    void sendJson<Profiles>('PUT', `/api/profiles/${entry.id}`, { text })
      .then((list) => {
        setConsequences(null);
        setProblem('');
        onSaved(list);
      })
      .catch(fail);
  const tryIt = (folder: string) =>
    void sendJson<{ checks: SetupCheck[]; steps: StepState[] }>('POST', '/api/profiles/try', { text, folder })
      .then((answer) => {
        setTried({ folder, ...answer });
        setProblem('');
      })
      .catch(fail);
  const takeList = async (list: ProfileList, file: File | undefined) => {
    if (!file) return;
    try {
      write(listFromCsv(JSON.parse(text) as Profile, list, await file.text(), file.name) as unknown as Json);
      setProblem('');
    } catch (error) {
      fail(error);
    }
  };
  return (
    <div>
      <div className="d-flex gap-2 align-items-center mb-2 flex-wrap" role="toolbar" aria-label="Profile">
        <div className="btn-group" role="group" aria-label="How it is edited">
          {(['form', 'json'] as const).map((one) => (
            <button key={one} className={`btn btn-quiet ${tab === one ? 'active' : ''}`} aria-pressed={tab === one} onClick={() => setTab(one)}>
              {one === 'form' ? 'Form' : 'JSON'}
            </button>
          ))}
        </div>
        <span className={`stamp ${wrong ? 'blocked' : 'clear'}`} role="status">
          <Icon name={wrong ? 'x-octagon' : 'check-circle'} /> {wrong ? 'not in order' : 'in order'}
        </span>
        <span className="flex-grow-1" />
        <button className="btn btn-quiet" disabled={wrong !== null} onClick={() => setChoosing(true)}>
          <Icon name="clipboard-check" /> Try it against an install …
        </button>
        {!entry.shipped && (
          <button className="btn btn-primary" disabled={!dirty || wrong !== null} onClick={look}>
            <Icon name="check2" /> Save …
          </button>
        )}
      </div>
      {entry.shipped && <p className="faint">This profile ships with the application. It is shown as it is; make a copy to change it.</p>}
      {wrong && (
        <div className="severity blocker text-wrap mb-2" role="alert">
          {wrong}
        </div>
      )}
      {problem && (
        <div className="severity blocker text-wrap mb-2" role="alert">
          {problem}
        </div>
      )}
      {consequences && <ProfileChanges consequences={consequences} save={save} close={() => setConsequences(null)} />}
      {tried && <ProfileChecks folder={tried.folder} checks={tried.checks} steps={tried.steps} close={() => setTried(null)} />}
      {tab === 'json' ? (
        <JsonEditor text={text} readOnly={entry.shipped} onChange={setText} />
      ) : document === null ? (
        <p className="faint">The text is no JSON at the moment; put it right under JSON, and the form is back.</p>
      ) : (
        <section className="panel">
          <header className="flex-wrap">
            {PARTS.map(({ title }, i) => (
              <button
                key={title}
                className={`btn btn-quiet btn-sm ${part === i ? 'active' : ''}`}
                aria-pressed={part === i}
                onClick={() => setPart(i)}
              >
                {title}
              </button>
            ))}
          </header>
          <div className="body">
            {PARTS[part].names.map((name) => (
              <SchemaForm
                key={name}
                schema={ProfileSchema.properties[name]}
                value={(document as Record<string, Json>)[name]}
                path={[name]}
                readOnly={entry.shipped}
                set={(path, value) => write(put(document, path, value))}
              />
            ))}
            {PROFILE_LISTS.filter((list) => 'list' in PARTS[part] && PARTS[part].list === list).map((list) => (
              <div key={list} className="schema-row">
                <span>{LIST_WORDS[list]} as a table</span>
                <div className="d-flex gap-2">
                  <button
                    className="btn btn-quiet"
                    disabled={wrong !== null}
                    onClick={() =>
                      saveFile(`${entry.id}_${list}.csv`, new Blob([listToCsv(JSON.parse(text) as Profile, list)], { type: 'text/csv' }))
                    }
                  >
                    <Icon name="download" /> Take out as CSV
                  </button>
                  {!entry.shipped && (
                    <label className="btn btn-quiet m-0">
                      <Icon name="upload" /> Take in CSV
                      <input
                        type="file"
                        accept=".csv"
                        className="visually-hidden"
                        onChange={(event) => void takeList(list, event.target.files?.[0])}
                      />
                    </label>
                  )}
                </div>
              </div>
            ))}
          </div>
        </section>
      )}
      {choosing && (
        <FolderPicker
          title="Install that the profile is tried against"
          take="Run all checks"
          close={() => setChoosing(false)}
          choose={(folder) => {
            setChoosing(false);
            tryIt(folder);
          }}
        />
      )}
    </div>
  );
}
