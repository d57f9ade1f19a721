import { useEffect, useState } from 'react';
import { getJson, message, sendJson } from '../api/http.ts';
import type { ReleaseChanges, Settings, UploadEntry, WorkshopState } from '../api/types.ts';
import { bytes } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { useAppSelector } from '../state/store.ts';

interface Props {
  crateId: string;
  changes: ReleaseChanges | null;
  uploads: readonly UploadEntry[];
  workshop: WorkshopState | null;
  refresh(): void;
}

const STATE: Record<UploadEntry['state'], [icon: string, words: string]> = {
  running: ['cloud-upload', 'on its way'],
  stopped: ['pause-circle', 'stopped'],
  failed: ['x-octagon', 'broken off'],
  done: ['check-circle', 'there'],
};

/** What changed, who sees it at first, and the package on its way to the workshop. */
export function UploadStep({ crateId, changes, uploads, workshop, refresh }: Props) {
  const { packages, releases } = useAppSelector((s) => s.crate);
  const [typed, setNotes] = useState<string | null>(null);
  const [visibility, setVisibility] = useState<'private' | 'code'>('code');
  const [problem, setProblem] = useState('');
  const latest = packages?.[0];
  const release = releases?.find(({ packageId }) => packageId === latest?.id);
  const notes = typed ?? changes?.notes ?? '';
  const under = uploads.find(({ packageId, state }) => packageId === latest?.id && state !== 'done');
  const send = (path: string, body: object) =>
    sendJson('POST', path, body)
      .then(() => setProblem(''))
      .catch((error) => setProblem(message(error)))
      .finally(refresh);
  return (
    <section className="panel">
      <header>
        <h2>To the workshop</h2>
        <WorkshopAddress />
      </header>
      <div className="body publish-form">
        <div>
          <label className="form-label" htmlFor="change-notes">
            What changed {changes?.since ? `since ${changes.since}` : ''} <span className="faint">drafted from the crate; go on with it</span>
          </label>
          <textarea id="change-notes" className="form-control" rows={7} value={notes} onChange={(event) => setNotes(event.target.value)} />
          {typed !== null && changes && typed !== changes.notes && (
            <button className="btn btn-quiet btn-sm mt-1" onClick={() => setNotes(null)}>
              Draft it again
            </button>
          )}
        </div>
        {!workshop?.mod && (
          <fieldset>
            <legend className="form-label">Who sees it at first</legend>
            {(
              [
                ['code', 'Whoever has its share code'],
                ['private', 'Only you, your organisation and its testers'],
              ] as const
            ).map(([value, text]) => (
              <label key={value} className="form-check">
                <input
                  type="radio"
                  className="form-check-input"
                  name="visibility"
                  checked={visibility === value}
                  onChange={() => setVisibility(value)}
                />{' '}
                {text}
              </label>
            ))}
          </fieldset>
        )}
        <div className="d-flex gap-3 align-items-center flex-wrap">
          <button
            className="btn btn-warm"
            disabled={!latest?.fresh || release !== undefined || under?.state === 'running'}
            onClick={() => void send(`/api/crates/${crateId}/publish`, { packageId: latest!.id, notes, visibility })}
          >
            <Icon name="cloud-upload" /> {release ? 'Published' : latest ? `Publish ${latest.manifest.version}` : 'Publish'}
          </button>
          {release && (
            <span>
              Share code{' '}
              <code className="fs-5" data-share-code>
                {release.shareCode}
              </code>{' '}
              <button className="btn btn-quiet btn-sm" onClick={() => void navigator.clipboard.writeText(release.shareCode)}>
                <Icon name="copy" /> Copy
              </button>
            </span>
          )}
          {!latest && <span className="faint">There is no package yet.</span>}
          {latest && !latest.fresh && !release && (
            <span className="severity warning">The crate was changed since it was packed: make the package again.</span>
          )}
        </div>
        {under && (
          <div className="upload" data-upload={under.state}>
            <span className={`stamp ${under.state === 'failed' ? 'blocked' : under.state === 'running' ? 'running' : 'stale'}`}>
              <Icon name={STATE[under.state][0]} /> {STATE[under.state][1]}
            </span>
            <progress max={under.bytes} value={under.sent} aria-label="Bytes sent" />
            <span className="faint">
              {bytes(under.sent)} of {bytes(under.bytes)}
            </span>
            {under.state === 'running' ? (
              <button className="btn btn-quiet btn-sm" onClick={() => void send(`/api/uploads/${under.id}/stop`, {})}>
                Stop
              </button>
            ) : (
              <button className="btn btn-quiet btn-sm" onClick={() => void send(`/api/uploads/${under.id}/resume`, {})}>
                Go on
              </button>
            )}
            {under.problem && (
              <div className="severity blocker text-wrap" role="alert">
                {under.problem}
              </div>
            )}
          </div>
        )}
        {problem && (
          <div className="severity blocker text-wrap" role="alert">
            {problem}
          </div>
        )}
      </div>
    </section>
  );
}

/** Where the workshop is, who signs, and the token that opens it. */
function WorkshopAddress() {
  const [settings, setSettings] = useState<Settings | null>(null);
  const [key, setKey] = useState<{ fingerprint: string; file: string } | null>(null);
  const [open, setOpen] = useState(false);
  const [note, setNote] = useState('');
  const [token, setToken] = useState('');
  useEffect(() => {
    getJson<Settings>('/api/settings')
      .then(setSettings)
      .catch((error) => setNote(message(error)));
    getJson<{ fingerprint: string; file: string }>('/api/author')
      .then(setKey)
      .catch(() => {});
  }, []);
  if (!settings) return <span className="faint">{note}</span>;
  const save = () =>
    sendJson<Settings>('PUT', '/api/settings', { workshopUrl: settings.workshopUrl, ...(token === '' ? {} : { workshopToken: token }) })
      .then((next) => {
        setSettings(next);
        setToken('');
        setNote('Saved');
      })
      .catch((error) => setNote(message(error)));
  // The tab is opened at once: one that opens after an answer counts as a pop-up.
  const enter = async () => {
    const tab = window.open('about:blank');
    let url = settings.workshopUrl;
    try {
      ({ url } = await sendJson<{ url: string }>('POST', '/api/workshop/entrance', {}));
    } catch (error) {
      setNote(message(error));
    }
    if (tab) tab.location.href = url;
  };
  return (
    <div className="d-flex gap-2 align-items-center flex-wrap justify-content-end">
      {key && (
        <span className="faint" title="Packages of this machine are signed with this key">
          <Icon name="key" /> <span className="mono">{key.fingerprint}</span>
        </span>
      )}
      <button className="btn btn-quiet btn-sm" onClick={() => void enter()}>
        <Icon name="box-arrow-up-right" /> Open its site
      </button>
      <button className="btn btn-quiet btn-sm" aria-expanded={open} onClick={() => setOpen(!open)}>
        Address, token and key
      </button>
      {open && (
        <form
          className="workshop-address"
          onSubmit={(event) => {
            event.preventDefault();
            void save();
          }}
        >
          <label>
            Address
            <input
              className="form-control form-control-sm mono"
              value={settings.workshopUrl}
              onChange={(event) => setSettings({ ...settings, workshopUrl: event.target.value })}
            />
          </label>
          <label>
            Token
            <input
              type="password"
              autoComplete="off"
              className="form-control form-control-sm mono"
              placeholder={settings.hasToken ? 'kept; type another one to change it' : 'none for this address'}
              value={token}
              onChange={(event) => setToken(event.target.value)}
            />
          </label>
          <button className="btn btn-quiet btn-sm">Save</button>
          {key && (
            <span className="faint">
              The private key is in <span className="mono">{key.file}</span>. To sign on another machine too, copy that file there.
            </span>
          )}
          <span className="faint">{note}</span>
        </form>
      )}
    </div>
  );
}
