import { lazy, Suspense, useCallback, useEffect, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import type { Finding } from '@violet-crate/core/finding';
import { getJson, message, sendJson, upload } from '../api/http.ts';
import type { CrateEntry, CrateView, Game, SetupCheck } from '../api/types.ts';
import { Busy, Trouble } from '../common/Busy.tsx';
import { FolderPicker } from '../common/FolderPicker.tsx';
import { Icon } from '../common/Icon.tsx';
import { DepotOffers } from '../setup/DepotOffers.tsx';
import { SetupChecks } from '../setup/SetupChecks.tsx';
import { useAppDispatch } from '../state/store.ts';
import { switchTheme } from '../state/preferencesSlice.ts';
import { FreeSpace } from './FreeSpace.tsx';
import { NewCrate } from './NewCrate.tsx';
import { Shelf } from './Shelf.tsx';
import './home.css';

/** It lists all commands of the map, which this page does not need before it is asked for. */
const ShortcutsOverlay = lazy(async () => ({ default: (await import('../shell/ShortcutsOverlay.tsx')).ShortcutsOverlay }));

interface Loaded {
  crates: CrateEntry[];
  games: Game[];
  checks: Record<string, SetupCheck[]>;
}

async function loadAll(): Promise<Loaded> {
  const [crates, games] = await Promise.all([getJson<CrateEntry[]>('/api/crates'), getJson<Game[]>('/api/games')]);
  const found = games.filter((game) => game.version);
  const checks = await Promise.all(found.map((game) => getJson<SetupCheck[]>(`/api/games/${game.profile.id}/checks`)));
  return { crates, games, checks: Object.fromEntries(found.map((game, i) => [game.profile.id, checks[i]])) };
}

/** The first screen: crates, and the games they are for. */
export function HomePage() {
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const [loaded, setLoaded] = useState<Loaded | null>(null);
  const [problem, setProblem] = useState('');
  const [making, setMaking] = useState(false);
  const [opening, setOpening] = useState(false);
  const [keys, setKeys] = useState(false);
  const [space, setSpace] = useState(false);
  const [damaged, setDamaged] = useState<(CrateView & { damage: Finding[] }) | null>(null);

  const load = useCallback(() => {
    loadAll()
      .then((all) => {
        setLoaded(all);
        setProblem('');
      })
      .catch((error) => setProblem(message(error)));
  }, []);
  useEffect(load, [load]);

  const openFolder = (folder: string) => {
    setOpening(false);
    void taken(sendJson('POST', '/api/crates/from-folder', { folder }));
  };
  const importZip = async (file: File | undefined) => {
    if (file) await taken(upload('/api/crates/import', 'file', [file]));
  };
  const taken = async (work: Promise<CrateView & { damage: Finding[] }>) => {
    try {
      const view = await work;
      if (view.damage.length > 0) return setDamaged(view);
      await navigate(`/crates/${view.id}/map`);
    } catch (error) {
      setProblem(message(error));
    }
  };

  return (
    <div className="d-flex flex-column h-100">
      <header className="bar">
        <span className="brand">
          <img src="/icon.svg" width={22} height={22} alt="" /> Violet Crate
        </span>
        <span className="spacer" />
        <Link className="btn btn-quiet" role="button" to="/mods">
          <Icon name="collection-play" /> Mods
        </Link>
        <Link className="btn btn-quiet" role="button" to="/profiles">
          <Icon name="controller" /> Profiles
        </Link>
        <Link className="btn btn-quiet" role="button" to="/preferences">
          <Icon name="sliders" /> Preferences
        </Link>
        <button className="btn btn-quiet" onClick={() => setKeys(true)} aria-label="Keys">
          <Icon name="keyboard" />
        </button>
        <button className="btn btn-quiet" onClick={() => dispatch(switchTheme())} aria-label="Switch between dark and light">
          <Icon name="circle-half" />
        </button>
      </header>
      <main className="work flex-grow-1">
        <div className="page mx-auto">
          {problem && <Trouble retry={load}>{problem}</Trouble>}
          {damaged && (
            <div className="panel p-3 mb-3" role="alert">
              <h2>{damaged.manifest.title} came in with damage</h2>
              <p>What could be read is there. The damaged file is kept as it was among the crate’s sources.</p>
              <ul>
                {damaged.damage.map((finding, i) => (
                  <li key={i}>{finding.message}</li>
                ))}
              </ul>
              <Link className="btn btn-primary" role="button" to={`/crates/${damaged.id}/map`}>
                Open it
              </Link>
            </div>
          )}
          {!loaded && !problem && <Busy what="Looking for crates and games" />}
          {loaded && (
            <>
              <div className="d-flex align-items-center gap-2 mb-2">
                <h1 className="m-0 flex-grow-1">Crates</h1>
                <label className="btn btn-quiet m-0">
                  <Icon name="upload" /> Import folder (ZIP)
                  <input type="file" accept=".zip" className="visually-hidden" onChange={(event) => void importZip(event.target.files?.[0])} />
                </label>
                <button className="btn btn-quiet" onClick={() => setOpening(true)}>
                  <Icon name="folder2-open" /> Open a folder …
                </button>
                <button className="btn btn-primary" onClick={() => setMaking(true)}>
                  <Icon name="plus-lg" /> New crate
                </button>
              </div>
              <p className="lead faint">A crate is one mod: its map, models, textures and scripts, from the empty folder to the published release.</p>
              {loaded.crates.length === 0 && (
                <div className="empty mb-4">
                  <h2>No crates yet</h2>
                  Make one from a template, import a crate’s folder, or take an example of the depot apart.
                </div>
              )}
              {loaded.crates.length === 0 &&
                loaded.games
                  .filter((game) => game.version)
                  .map((game) => (
                    <section className="panel mb-3" key={game.profile.id} aria-label={`Examples for ${game.profile.title}`}>
                      <DepotOffers profile={game.profile.id} kinds={['crate']} onChange={load} />
                    </section>
                  ))}
              <Shelf crates={loaded.crates} games={loaded.games} onChange={load} />
              <div className="d-flex align-items-center gap-2 mb-2">
                <h2 className="h1 m-0 flex-grow-1">Games on this machine</h2>
                <button className="btn btn-quiet" onClick={() => setSpace(true)}>
                  <Icon name="hdd" /> Free space
                </button>
              </div>
              {Object.entries(loaded.checks).map(([id, checks]) => {
                const game = loaded.games.find((g) => g.profile.id === id)!;
                return (
                  <section className="panel mb-3" key={id}>
                    <header>
                      <h2>
                        {game.profile.title} {game.version}
                      </h2>
                      <span className={`stamp ${checks.every((c) => c.ok) ? 'clear' : 'blocked'}`}>
                        <Icon name={checks.every((c) => c.ok) ? 'check-circle' : 'x-octagon'} />{' '}
                        {checks.every((c) => c.ok) ? 'ready' : 'needs attention'}
                      </span>
                      <button className="btn btn-quiet" onClick={load}>
                        <Icon name="arrow-clockwise" /> Look again
                      </button>
                    </header>
                    <SetupChecks
                      profile={id}
                      checks={checks}
                      onChange={(next) => setLoaded({ ...loaded, checks: { ...loaded.checks, [id]: next } })}
                    />
                  </section>
                );
              })}
              {loaded.games
                .filter((game) => !game.version)
                .map((game) => (
                  <section className="panel mb-3" key={game.profile.id} aria-label={game.profile.title}>
                    <header>
                      <h2>{game.profile.title}</h2>
                      <span className="faint">
                        was not found. It would be looked for in <code>{game.folder}</code>.
                      </span>
                    </header>
                    <DepotOffers profile={game.profile.id} kinds={['game']} onChange={load} />
                  </section>
                ))}
            </>
          )}
        </div>
      </main>
      {making && loaded && (
        <NewCrate games={loaded.games} taken={loaded.crates.filter((c) => !c.deletedAt).map((c) => c.manifest.name)} close={() => setMaking(false)} />
      )}
      {opening && (
        <FolderPicker
          title="Folder of a crate"
          take="Open it"
          hint="A folder with a crate.json, under version control or not. Both are kept equal."
          choose={openFolder}
          close={() => setOpening(false)}
        />
      )}
      {space && <FreeSpace close={() => setSpace(false)} />}
      {keys && (
        <Suspense>
          <ShortcutsOverlay close={() => setKeys(false)} />
        </Suspense>
      )}
    </div>
  );
}
