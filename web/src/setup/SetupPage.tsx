import { useState } from 'react';
import { useNavigate } from 'react-router';
import { message, remove } from '../api/http.ts';
import { refreshSetup } from '../state/crateSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { SetupChecks } from './SetupChecks.tsx';
import { Icon } from '../common/Icon.tsx';
import { bytes, plural } from '../common/format.ts';

/** Stage 1: the game that this crate is for, and the crate's own folder. */
export function SetupPage() {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const { game, setup, view, base, scripts } = useAppSelector((s) => s.crate);
  const [problem, setProblem] = useState('');
  if (!game || !setup || !view) return null;
  const { profile } = game;
  const look = () => void dispatch(refreshSetup(profile.id));
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
      <p className="lead">{profile.description} The checks below look at the disk each time you open this page.</p>
      <section className="panel mb-3">
        <header>
          <h2>
            {profile.title} {game.version}
          </h2>
          <button className="btn btn-quiet" onClick={look}>
            <Icon name="arrow-clockwise" /> Look again
          </button>
        </header>
        <SetupChecks profile={profile.id} checks={setup} onChange={look} />
      </section>
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
              <button
                className="btn btn-quiet"
                onClick={() => {
                  if (window.confirm(`Delete "${view.manifest.title}" with everything in it? This cannot be undone.`))
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
