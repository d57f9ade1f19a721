import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import { getJson, message, sendJson } from '../api/http.ts';
import { isActive } from '../api/jobsSlice.ts';
import type { ReleaseEntry, Settings } from '../api/types.ts';
import { bytes, time } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { manifestChanged, refreshPackages } from '../crate/crateSlice.ts';
import { storedPicture, storePicture } from '../map/picture.ts';
import { FindingRow } from '../shell/FindingRow.tsx';
import { useAppDispatch, useAppSelector } from '../store.ts';

/** Stage 8: what people will read, the package, the workshop, and the way back into the game. */
export function PublishPage() {
  const { view } = useAppSelector((s) => s.crate);
  if (!view) return null;
  return (
    <div className="page">
      <h1>Publish</h1>
      <p className="lead">Describe the crate, make its package, publish that on the workshop, and install it from there as everyone else would.</p>
      <div className="row g-3">
        <div className="col-lg-6">
          <Details key={view.id} manifest={view.manifest} crateId={view.id} />
        </div>
        <div className="col-lg-6">
          <PackagePanel crateId={view.id} />
          <WorkshopPanel />
        </div>
      </div>
    </div>
  );
}

function Details({ manifest, crateId }: { manifest: CrateManifest; crateId: string }) {
  const dispatch = useAppDispatch();
  const [draft, setDraft] = useState({
    title: manifest.title,
    description: manifest.description,
    version: manifest.version,
    authors: manifest.authors.join(', '),
    credits: manifest.credits,
  });
  const [note, setNote] = useState<{ tone: string; text: string } | null>(null);
  const set = (change: Partial<typeof draft>) => {
    setDraft({ ...draft, ...change });
    setNote(null);
  };
  const save = async () => {
    const body = {
      ...draft,
      authors: draft.authors
        .split(',')
        .map((a) => a.trim())
        .filter(Boolean),
      credits: draft.credits.filter((c) => c.author.trim() !== ''),
    };
    try {
      dispatch(manifestChanged(await sendJson<CrateManifest>('PATCH', `/api/crates/${crateId}`, body)));
      await dispatch(refreshPackages(crateId));
      setNote({ tone: 'clear', text: 'Saved' });
    } catch (error) {
      setNote({ tone: 'blocked', text: message(error) });
    }
  };
  return (
    <form
      className="panel"
      onSubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      <header>
        <h2>What people will read</h2>
      </header>
      <div className="body">
        <div className="row g-2">
          <div className="col-8">
            <label className="form-label" htmlFor="pub-title">
              Title
            </label>
            <input id="pub-title" className="form-control" value={draft.title} onChange={(e) => set({ title: e.target.value })} required />
          </div>
          <div className="col-4">
            <label className="form-label" htmlFor="pub-version">
              Version
            </label>
            <input id="pub-version" className="form-control mono" value={draft.version} onChange={(e) => set({ version: e.target.value })} required />
          </div>
        </div>
        <label className="form-label mt-2" htmlFor="pub-description">
          Description
        </label>
        <textarea
          id="pub-description"
          className="form-control"
          rows={4}
          value={draft.description}
          onChange={(e) => set({ description: e.target.value })}
        />
        <label className="form-label mt-2" htmlFor="pub-authors">
          Authors
        </label>
        <input
          id="pub-authors"
          className="form-control"
          value={draft.authors}
          onChange={(e) => set({ authors: e.target.value })}
          placeholder="Names, with commas between"
        />
        <div className="d-flex align-items-center mt-3 mb-1">
          <span className="form-label m-0 flex-grow-1">Credits for the work of others</span>
          <button
            type="button"
            className="btn btn-quiet btn-sm"
            onClick={() => set({ credits: [...draft.credits, { author: '', work: '', licence: '' }] })}
          >
            <Icon name="plus-lg" /> Add
          </button>
        </div>
        {draft.credits.map((credit, i) => {
          const change = (part: Partial<typeof credit>) => set({ credits: draft.credits.map((c, k) => (k === i ? { ...c, ...part } : c)) });
          return (
            <div className="d-flex gap-1 mb-1" key={i}>
              <input
                className="form-control"
                aria-label={`Author of credit ${i + 1}`}
                placeholder="Author"
                value={credit.author}
                onChange={(e) => change({ author: e.target.value })}
              />
              <input
                className="form-control"
                aria-label={`Work of credit ${i + 1}`}
                placeholder="Work"
                value={credit.work}
                onChange={(e) => change({ work: e.target.value })}
              />
              <input
                className="form-control"
                aria-label={`Licence of credit ${i + 1}`}
                placeholder="Licence"
                value={credit.licence}
                onChange={(e) => change({ licence: e.target.value })}
              />
              <button
                type="button"
                className="btn btn-quiet"
                aria-label={`Remove credit ${i + 1}`}
                onClick={() => set({ credits: draft.credits.filter((_, k) => k !== i) })}
              >
                <Icon name="x-lg" />
              </button>
            </div>
          );
        })}
        {draft.credits.length === 0 && <div className="form-text">None. Models, textures or sounds by others belong here.</div>}
        <div className="d-flex align-items-center gap-3 mt-3">
          <button className="btn btn-primary">
            <Icon name="check-lg" /> Save details
          </button>
          {note && (
            <span className={`stamp ${note.tone}`} role="status">
              {note.text}
            </span>
          )}
        </div>
      </div>
    </form>
  );
}

function PackagePanel({ crateId }: { crateId: string }) {
  const dispatch = useAppDispatch();
  const { packages, releases, builds, profile } = useAppSelector((s) => s.crate);
  const packing = useAppSelector((s) => Object.values(s.jobs.byId).find((job) => job.kind === 'pack' && job.crateId === crateId && isActive(job)));
  const failed = useAppSelector(
    (s) =>
      Object.values(s.jobs.byId)
        .filter((job) => job.kind === 'pack' && job.crateId === crateId)
        .sort((a, b) => (a.createdAt < b.createdAt ? 1 : -1))[0],
  );
  const [picture, setPicture] = useState(storedPicture(crateId));
  const [problem, setProblem] = useState('');
  const [publishing, setPublishing] = useState(false);
  const latest = packages?.[0];
  const release: ReleaseEntry | undefined = releases?.find((r) => r.packageId === latest?.id);
  const built = builds?.find((b) => b.ok && b.fresh);
  const pack = () => {
    setProblem('');
    sendJson('POST', `/api/crates/${crateId}/packages`, picture ? { thumbnail: picture } : {}).catch((error) => setProblem(message(error)));
  };
  const publish = async () => {
    if (!latest) return;
    setPublishing(true);
    setProblem('');
    try {
      await sendJson('POST', '/api/publish', { packageId: latest.id });
      await dispatch(refreshPackages(crateId));
    } catch (error) {
      setProblem(message(error));
    }
    setPublishing(false);
  };
  return (
    <section className="panel mb-3">
      <header>
        <h2>Package</h2>
        {latest && (
          <span className={`stamp ${latest.fresh ? 'clear' : 'stale'}`}>
            <Icon name={latest.fresh ? 'check-circle' : 'clock-history'} /> {latest.fresh ? 'fresh' : 'stale'}
          </span>
        )}
      </header>
      <div className="body">
        <div className="d-flex gap-3 mb-3">
          <div
            className="border rounded overflow-hidden flex-shrink-0 d-grid text-center faint small"
            style={{ width: 176, aspectRatio: '16 / 9', placeItems: 'center', background: 'var(--vc-sunken)' }}
          >
            {picture ? <img src={picture} alt="Picture from the map view" className="w-100" /> : 'Drawn from the start’s view'}
          </div>
          <div className="small">
            <div className="mb-1">
              Picture {profile?.package.thumbnailWidth} × {profile?.package.thumbnailHeight}
            </div>
            <div className="faint mb-2">Take one in the map’s perspective view; without it, the view of a player at the start is drawn.</div>
            <Link className="btn btn-quiet btn-sm" to={`/crates/${crateId}/map`}>
              Map view
            </Link>{' '}
            {picture && (
              <button
                className="btn btn-quiet btn-sm"
                onClick={() => {
                  storePicture(crateId, null);
                  setPicture(null);
                }}
              >
                Drop picture
              </button>
            )}
          </div>
        </div>
        {!built && (
          <p className="severity warning text-wrap">
            <Icon name="clock-history" /> The map has no fresh build. <Link to={`/crates/${crateId}/build`}>Build it first.</Link>
          </p>
        )}
        <div className="d-flex gap-2 align-items-center flex-wrap">
          <button className="btn btn-primary" onClick={pack} disabled={!built || !!packing}>
            <Icon name="box-seam" /> {packing ? 'Packing …' : 'Make package'}
          </button>
          {latest && (
            <>
              <a className="btn btn-quiet" href={`/api/packages/${latest.id}/file`} download>
                <Icon name="download" /> {latest.manifest.name}-{latest.manifest.version}.zip
              </a>
              <span className="faint small">
                {bytes(latest.bytes)}, {latest.manifest.files.length} files, {time(latest.createdAt)}
              </span>
            </>
          )}
        </div>
        {problem && (
          <div className="severity blocker text-wrap mt-2" role="alert">
            {problem}
          </div>
        )}
        {failed?.state === 'failed' && failed.error && !packing && (!latest || failed.createdAt > latest.createdAt) && (
          <FindingRow finding={failed.error} />
        )}
        {latest && (
          <details className="mt-2 small">
            <summary>Contents</summary>
            <table className="table table-sm mb-0">
              <tbody>
                {[...latest.manifest.files]
                  .sort((a, b) => b.bytes - a.bytes)
                  .map((file) => (
                    <tr key={file.path}>
                      <td className="mono">{file.path}</td>
                      <td className="text-end">{bytes(file.bytes)}</td>
                      <td className="mono faint" title={file.sha256}>
                        {file.sha256.slice(0, 10)}…
                      </td>
                    </tr>
                  ))}
              </tbody>
            </table>
          </details>
        )}
        {latest && (
          <div className="border-top mt-3 pt-3 d-flex gap-3 align-items-center flex-wrap">
            <button className="btn btn-warm" onClick={() => void publish()} disabled={publishing || !latest.fresh || !!release}>
              <Icon name="cloud-upload" /> {publishing ? 'Publishing …' : release ? 'Published' : `Publish ${latest.manifest.version}`}
            </button>
            {release && (
              <span>
                Share code{' '}
                <code className="fs-5" data-share-code>
                  {release.shareCode}
                </code>
              </span>
            )}
          </div>
        )}
        {releases && releases.length > (release ? 1 : 0) && (
          <div className="small faint mt-2">
            Earlier releases:{' '}
            {releases
              .filter((r) => r !== release)
              .map((r) => `${r.version} (${r.shareCode})`)
              .join(', ')}
          </div>
        )}
      </div>
    </section>
  );
}

interface Installed {
  name: string;
  version: string;
  folder: string;
  verified: number;
}

function WorkshopPanel() {
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
