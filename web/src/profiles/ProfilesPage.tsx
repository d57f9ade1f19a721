import { useCallback, useEffect, useState } from 'react';
import { getJson, message, remove, request, sendJson } from '../api/http.ts';
import type { ProfileEntry, Profiles } from '../api/types.ts';
import { Busy, Trouble } from '../common/Busy.tsx';
import { Icon } from '../common/Icon.tsx';
import { PlainBar } from '../common/PlainBar.tsx';
import { CopyProfile } from './CopyProfile.tsx';
import { DepotProfiles } from './DepotProfiles.tsx';
import { ProfileEditor } from './ProfileEditor.tsx';
import './profiles.css';

/** All profiles: those that ship to look at and to copy, and the user's own to be changed. */
export function ProfilesPage() {
  const [list, setList] = useState<Profiles | null>(null);
  const [chosen, setChosen] = useState('');
  const [text, setText] = useState<string | null>(null);
  const [copying, setCopying] = useState<ProfileEntry | null>(null);
  const [problem, setProblem] = useState('');
  const fail = (error: unknown) => setProblem(message(error));
  const load = useCallback(() => {
    getJson<Profiles>('/api/profiles')
      .then((answer) => {
        setList(answer);
        setProblem('');
        setChosen((now) => (answer.profiles.some(({ id }) => id === now) ? now : (answer.profiles[0]?.id ?? '')));
      })
      .catch(fail);
  }, []);
  useEffect(load, [load]);
  const hash = list?.profiles.find(({ id }) => id === chosen)?.hash;
  useEffect(() => {
    if (!chosen || !hash) return;
    let current = true;
    setText(null);
    request(`/api/profiles/${chosen}`)
      .then((answer) => answer.text())
      .then((answer) => current && setText(answer))
      .catch((error) => current && fail(error));
    return () => {
      current = false;
    };
    // Saving it makes another text of it.
  }, [chosen, hash]);
  const add = async (file: File | undefined) => {
    if (!file) return;
    try {
      setList(await sendJson<Profiles>('POST', '/api/profiles', { text: await file.text() }));
      setProblem('');
    } catch (error) {
      fail(error);
    }
  };
  const entry = list?.profiles.find(({ id }) => id === chosen);
  return (
    <div className="d-flex flex-column h-100">
      <PlainBar />
      <main className="work flex-grow-1">
        <div className="page mx-auto">
          <div className="d-flex align-items-center gap-2 mb-2 flex-wrap">
            <h1 className="m-0 flex-grow-1">Profiles of games</h1>
            <label className="btn btn-quiet m-0">
              <Icon name="upload" /> Add a file
              <input type="file" accept=".json" className="visually-hidden" onChange={(event) => void add(event.target.files?.[0])} />
            </label>
          </div>
          <p className="lead faint">
            A profile says everything that a game needs. Those that ship stay as they are; a copy of one is the quickest way to describe a game of
            your own.
          </p>
          {problem && <Trouble retry={load}>{problem}</Trouble>}
          {!list && !problem && <Busy what="Looking for profiles" />}
          {list?.damaged.map(({ file, message: reason }) => (
            <div key={file} className="severity blocker text-wrap mb-2" role="alert">
              <Icon name="x-octagon" /> {file} in the folder of profiles cannot be used. {reason}
            </div>
          ))}
          {list && (
            <div className="profile-columns">
              <nav className="panel" aria-label="Profiles">
                {list.profiles.map((one) => (
                  <button
                    key={one.id}
                    className={`btn btn-quiet w-100 text-start ${one.id === chosen ? 'active' : ''}`}
                    aria-current={one.id === chosen}
                    onClick={() => setChosen(one.id)}
                  >
                    <strong>{one.title}</strong> <span className="faint small">{one.shipped ? 'ships' : (one.version ?? 'yours')}</span>
                  </button>
                ))}
                <DepotProfiles
                  added={(id) => {
                    setChosen(id);
                    load();
                  }}
                />
              </nav>
              {entry && (
                <div className="profile-main">
                  <div className="d-flex gap-2 align-items-center mb-2">
                    <h2 className="h1 m-0">{entry.title}</h2>
                    <code className="flex-grow-1">{entry.id}</code>
                    <button className="btn btn-primary" onClick={() => setCopying(entry)}>
                      <Icon name="copy" /> Copy …
                    </button>
                    {!entry.shipped && (
                      <button
                        className="btn btn-quiet"
                        onClick={() =>
                          window.confirm(`Remove the profile "${entry.title}"?`) && void remove(`/api/profiles/${entry.id}`).then(load).catch(fail)
                        }
                      >
                        <Icon name="trash" /> Remove
                      </button>
                    )}
                  </div>
                  {text === null ? (
                    <Busy what="Reading the profile" />
                  ) : (
                    <ProfileEditor key={`${entry.id} ${entry.hash}`} entry={entry} saved={text} onSaved={setList} />
                  )}
                </div>
              )}
            </div>
          )}
        </div>
      </main>
      {copying && (
        <CopyProfile
          of={copying}
          close={() => setCopying(null)}
          made={(answer, id) => {
            setList(answer);
            setChosen(id);
            setCopying(null);
          }}
        />
      )}
    </div>
  );
}
