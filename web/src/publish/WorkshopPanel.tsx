import { useEffect, useState } from 'react';
import { getJson, message, sendJson } from '../api/http.ts';
import type { Settings } from '../api/types.ts';
import { Icon } from '../common/Icon.tsx';
import { useAppSelector } from '../state/store.ts';

interface Installed {
  name: string;
  version: string;
  folder: string;
  verified: number;
}

/** Installs releases into the game; holds the workshop's address and token. */
export function WorkshopPanel() {
  const releases = useAppSelector((s) => s.crate.releases);
  const [settings, setSettings] = useState<Settings | null>(null);
  const [typedCode, setCode] = useState<string | null>(null);
  const [installed, setInstalled] = useState<Installed | null>(null);
  const [problem, setProblem] = useState('');
  const [note, setNote] = useState('');
  const [busy, setBusy] = useState(false);
  const code = typedCode ?? releases?.[0]?.shareCode ?? '';
  useEffect(() => {
    getJson<Settings>('/api/settings')
      .then(setSettings)
      .catch((error) => setProblem(message(error)));
  }, []);
  const install = async () => {
    setBusy(true);
    setProblem('');
    setInstalled(null);
    try {
      setInstalled(await sendJson<Installed>('POST', '/api/install', { shareCode: code }));
    } catch (error) {
      setProblem(message(error));
    }
    setBusy(false);
  };
  const save = async () => {
    if (!settings) return;
    try {
      setSettings(await sendJson<Settings>('PUT', '/api/settings', settings));
      setNote('Saved');
      setProblem('');
    } catch (error) {
      setProblem(message(error));
    }
  };
  return (
    <section className="panel">
      <header>
        <h2>Workshop</h2>
        {settings && (
          <a className="btn btn-quiet btn-sm" href={settings.workshopUrl} target="_blank" rel="noreferrer">
            <Icon name="box-arrow-up-right" /> Open its listing
          </a>
        )}
      </header>
      <div className="body">
        <label className="form-label" htmlFor="share-code">
          Install a release into the game
        </label>
        <form
          className="d-flex gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            void install();
          }}
        >
          <input
            id="share-code"
            className="form-control mono"
            style={{ maxWidth: '11rem' }}
            value={code}
            onChange={(event) => setCode(event.target.value)}
            placeholder="Share code"
          />
          <button className="btn btn-quiet" disabled={busy || code.trim() === ''}>
            <Icon name="cloud-download" /> {busy ? 'Installing …' : 'Install'}
          </button>
        </form>
        {installed && (
          <div className="stamp clear mt-2" role="status" data-installed={installed.name}>
            <Icon name="check-circle" /> {installed.name} {installed.version} is in {installed.folder}; {installed.verified} files verified by
            SHA-256.
          </div>
        )}
        {problem && (
          <div className="severity blocker text-wrap mt-2" role="alert">
            {problem}
          </div>
        )}
        {settings && (
          <details className="mt-3">
            <summary>Address and token</summary>
            <form
              className="mt-2"
              onSubmit={(event) => {
                event.preventDefault();
                void save();
              }}
            >
              <label className="form-label" htmlFor="workshop-url">
                Address
              </label>
              <input
                id="workshop-url"
                className="form-control mono mb-2"
                value={settings.workshopUrl}
                onChange={(event) => setSettings({ ...settings, workshopUrl: event.target.value })}
              />
              <label className="form-label" htmlFor="workshop-token">
                Token
              </label>
              <input
                id="workshop-token"
                type="password"
                autoComplete="off"
                className="form-control mono mb-2"
                value={settings.workshopToken}
                onChange={(event) => setSettings({ ...settings, workshopToken: event.target.value })}
              />
              <button className="btn btn-quiet">Save</button> <span className="faint">{note}</span>
            </form>
          </details>
        )}
      </div>
    </section>
  );
}
