import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { message, remove, request, sendJson } from '../api/http.ts';
import { openCrate, refreshSetup } from '../state/crateSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { browserCheck } from './browserCheck.ts';
import { CommunityPacks } from './CommunityPacks.tsx';
import { DepotOffers } from './DepotOffers.tsx';
import { FolderPanel } from './FolderPanel.tsx';
import { Installs } from './Installs.tsx';
import { Preparation } from './Preparation.tsx';
import { ProfileConsent } from './ProfileConsent.tsx';
import { SetupChecks } from './SetupChecks.tsx';
import { Icon } from '../common/Icon.tsx';
import { bytes, plural } from '../common/format.ts';
import './setup.css';

/** Stage 1: the game that this crate is for with all its tools and packs, and the crate's own folder. */
export function SetupPage() {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const { game, setup, steps, gameChange, newerProfile, view, base, scripts } = useAppSelector((s) => s.crate);
  const [problem, setProblem] = useState('');
  const [note, setNote] = useState('');
  const [withPaths, setWithPaths] = useState(false);
  const browser = useMemo(() => (game ? browserCheck(game.profile) : null), [game]);
  if (!game || !setup || !view) return null;
  const { profile } = game;
  const look = () => void dispatch(refreshSetup(view.id));
  const attempt = (work: Promise<string>) => void work.then(setNote).catch((error) => setNote(message(error)));
  const copyReport = async () => {
    const text = await (await request(`/api/games/${profile.id}/report?install=${view.install}${withPaths ? '&paths=yes' : ''}`)).text();
    await navigator.clipboard.writeText(text);
    return `The report was copied${withPaths ? ', with the names of your folders' : ''}.`;
  };
  const folders = new Map<string, number>();
  for (const file of view.files) {
    const folder = file.path.split('/')[0];
    folders.set(folder, (folders.get(folder) ?? 0) + 1);
  }
  const rules: [string, string][] = [
    ['Unit', `1 ${profile.unit.name} = ${profile.unit.metres * 100} cm`],
    ['Player', `${profile.player.height} high, ${profile.player.radius * 2} wide, steps of ${profile.player.stepHeight}`],
    ['Grid', `${profile.grid.default} (from ${profile.grid.min} to ${profile.grid.max})`],
    ['Maps', profile.sealed ? 'have to be sealed' : 'may be open'],
    ['Models', `up to ${profile.models.maxTriangles.toLocaleString('en')} triangles, ${profile.models.maxMaterials} materials`],
    ['Textures', `up to ${profile.textures.maxSize} × ${profile.textures.maxSize}${profile.textures.powerOfTwo ? ', powers of two' : ''}`],
  ];
  return (
    <div className="page">
      <h1>Set-up</h1>
      <p className="lead">{profile.description} What is found is looked at again whenever this page is opened or the game changes.</p>
      {gameChange && (
        <div className="panel p-3 mb-3 d-flex gap-3 align-items-center" role="alert" data-testid="game-change">
          <span className="severity warning">
            <Icon name="exclamation-triangle" /> The game is another one
          </span>
          <span className="flex-grow-1">
            {gameChange.message}
            {gameChange.changed.length + gameChange.gone.length > 0 && (
              <span className="detail"> {[...gameChange.changed, ...gameChange.gone].slice(0, 5).join(', ')}</span>
            )}
          </span>
          <button
            className="btn btn-warm"
            onClick={() =>
              attempt(
                sendJson('PUT', `/api/crates/${view.id}/game`, { install: view.install }).then(() => {
                  look();
                  return 'The crate is made with the game as it is now.';
                }),
              )
            }
          >
            I have seen it
          </button>
        </div>
      )}
      {newerProfile && (
        <div className="panel p-3 mb-3 d-flex gap-3 align-items-center" data-testid="newer-profile">
          <span className="severity note">
            <Icon name="info-circle" /> The profile has changed
          </span>
          <span className="flex-grow-1">
            This crate is made with it as it was. {newerProfile.differences.join('. ')}.
            {newerProfile.trouble.length > 0 && <span className="d-block">In this crate: {newerProfile.trouble.join('; ')}.</span>}
          </span>
          <button
            className="btn btn-warm"
            onClick={() =>
              attempt(
                sendJson('POST', `/api/crates/${view.id}/profile`, {}).then(async () => {
                  await dispatch(openCrate(view.id));
                  return 'The crate is made with the profile as it is now.';
                }),
              )
            }
          >
            Move this crate
          </button>
        </div>
      )}
      <section className="panel mb-3" aria-label="Checks">
        <header>
          <h2>
            {profile.title} {game.version}
          </h2>
          <label className="form-check m-0">
            <input type="checkbox" className="form-check-input" checked={withPaths} onChange={(event) => setWithPaths(event.target.checked)} /> with
            folder names
          </label>
          <button className="btn btn-quiet" onClick={() => attempt(copyReport())}>
            <Icon name="clipboard" /> Copy report
          </button>
          <button className="btn btn-quiet" onClick={look}>
            <Icon name="arrow-clockwise" /> Look again
          </button>
        </header>
        <SetupChecks profile={profile.id} install={view.install} checks={browser ? [...setup, browser] : setup} onChange={look} />
        {note && (
          <div className="p-2 px-3 faint" role="status">
            {note}
          </div>
        )}
      </section>
      {steps.length > 0 && (
        <section className="panel mb-3" aria-label="Preparation">
          <header>
            <h2>Preparation</h2>
            <span className="faint">
              {steps.filter(({ done }) => done).length} of {steps.length} done
            </span>
          </header>
          <Preparation profile={profile.id} install={view.install} steps={steps} onChange={look} />
        </section>
      )}
      <section className="panel mb-3" aria-label="Packs and tools">
        <header>
          <h2>Packs and tools from the depot</h2>
        </header>
        <DepotOffers profile={profile.id} install={view.install} kinds={['tool', 'pack', 'community']} onChange={look} />
      </section>
      <CommunityPacks crateId={view.id} />
      <div className="row g-3 mb-3">
        <section className="col-lg-6" aria-label="Installs">
          <div className="panel">
            <header>
              <h2>Installs</h2>
            </header>
            <Installs view={view} onChange={look} />
          </div>
        </section>
        <section className="col-lg-6" aria-label="Programs and settings">
          <div className="panel h-100">
            <header>
              <h2>Programs and settings</h2>
            </header>
            <ProfileConsent profile={profile.id} install={view.install} />
          </div>
        </section>
      </div>
      <div className="row g-3">
        <section className="col-lg-6">
          <div className="panel h-100">
            <header>
              <h2>What the game asks of a mod</h2>
            </header>
            <div className="body">
              <table className="table mb-0">
                <tbody>
                  {rules.map(([name, value]) => (
                    <tr key={name}>
                      <th scope="row">{name}</th>
                      <td>{value}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          </div>
        </section>
        <section className="col-lg-6">
          <div className="panel h-100">
            <header>
              <h2>This crate</h2>
              <a className="btn btn-quiet" href={`/api/crates/${view.id}/export`} download>
                <Icon name="download" /> Export folder (ZIP)
              </a>
            </header>
            <div className="body">
              <p>
                <code>{view.manifest.name}</code> has {plural(view.maps.length, 'map')}, {plural(Object.keys(scripts).length, 'script')} and{' '}
                {plural(view.files.length, 'file')} in all ({bytes(view.files.reduce((sum, f) => sum + f.bytes, 0))}). It uses the stock pack{' '}
                <strong>{base?.title}</strong>.
              </p>
              <div className="d-flex flex-wrap gap-2 mb-3">
                {[...folders].map(([folder, count]) => (
                  <span key={folder} className="border rounded px-2 py-1 small">
                    <Icon name="folder2" /> {folder}/ <span className="faint">{count}</span>
                  </span>
                ))}
                <span className="border rounded px-2 py-1 small">
                  <Icon name="folder2" /> maps/ <span className="faint">{view.maps.length}</span>
                </span>
              </div>
              <FolderPanel view={view} />
              <button
                className="btn btn-quiet"
                onClick={() => {
                  if (window.confirm(`Delete "${view.manifest.title}"? It can be had back from the first page for 30 days.`))
                    remove(`/api/crates/${view.id}`)
                      .then(() => navigate('/'))
                      .catch((error) => setProblem(message(error)));
                }}
              >
                <Icon name="trash" /> Delete this crate …
              </button>
              {problem && (
                <div className="severity blocker text-wrap mt-2" role="alert">
                  {problem}
                </div>
              )}
            </div>
          </div>
        </section>
      </div>
    </div>
  );
}
