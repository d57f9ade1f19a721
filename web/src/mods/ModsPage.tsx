import { useCallback, useEffect, useState, type FormEvent } from 'react';
import { useNavigate, useParams } from 'react-router';
import { getJson, message, RequestProblem, sendJson } from '../api/http.ts';
import type { InstalledRelease, ModsState, ModUpdate, Profiles } from '../api/types.ts';
import { Busy, Trouble } from '../common/Busy.tsx';
import { bytes, plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { PlainBar } from '../common/PlainBar.tsx';
import { BrowseWorkshop } from './BrowseWorkshop.tsx';
import { ModRow } from './ModRow.tsx';
import './mods.css';

/** The players' side of the workshop: mods of a game, what they need and hold, and more of them. */
export function ModsPage() {
  const navigate = useNavigate();
  const { game = '' } = useParams();
  const [games, setGames] = useState<{ id: string; title: string }[]>([]);
  useEffect(() => {
    getJson<Profiles>('/api/profiles')
      .then(({ profiles }) => setGames(profiles))
      .catch(() => {});
  }, []);
  return (
    <div className="d-flex flex-column h-100">
      <PlainBar />
      <main className="work flex-grow-1">
        <div className="page mx-auto">
          <div className="d-flex align-items-center gap-2 mb-2 flex-wrap">
            <h1 className="m-0 flex-grow-1">Mods</h1>
            <label htmlFor="mods-game" className="faint">
              Game
            </label>
            <select id="mods-game" className="form-select w-auto" value={game} onChange={(event) => void navigate(`/mods/${event.target.value}`)}>
              {!games.some(({ id }) => id === game) && <option value={game}>{game}</option>}
              {games.map(({ id, title }) => (
                <option key={id} value={id}>
                  {title}
                </option>
              ))}
            </select>
          </div>
          <GameMods key={game} game={game} />
        </div>
      </main>
    </div>
  );
}

function GameMods({ game }: { game: string }) {
  const [state, setState] = useState<ModsState | null>(null);
  const [updates, setUpdates] = useState<Record<string, ModUpdate>>({});
  const [verified, setVerified] = useState<Record<string, string | null>>({});
  const [code, setCode] = useState('');
  const [said, setSaid] = useState('');
  /** What went wrong, and how it is done all the same where that is possible. */
  const [problem, setProblem] = useState<{ text: string; anyway?: () => void } | null>(null);
  const [busy, setBusy] = useState('');
  const at = `/api/games/${game}/mods`;

  const load = useCallback(() => {
    getJson<ModsState>(at)
      .then((next) => {
        setState(next);
        setProblem(null);
      })
      .catch((error) => setProblem({ text: message(error) }));
    getJson<{ updates: Record<string, ModUpdate>; problem: string | null }>(`${at}/updates`)
      .then((answer) => setUpdates(answer.updates))
      // A workshop that is away takes nothing from what is installed.
      .catch(() => setUpdates({}));
  }, [at]);
  useEffect(load, [load]);

  const attempt = async (what: string, work: () => Promise<string | void>, anyway?: (signer?: { mod: string; signer: string }) => void) => {
    setBusy(what);
    setSaid('');
    setProblem(null);
    try {
      setSaid((await work()) ?? '');
      load();
    } catch (error) {
      const asked = error instanceof RequestProblem && (error.status === 422 || error.code === 'mod-signer');
      const signer = error instanceof RequestProblem ? (error.extra.signer as { mod: string; signer: string } | undefined) : undefined;
      setProblem({ text: message(error), ...(anyway && asked ? { anyway: () => anyway(signer) } : {}) });
    }
    setBusy('');
  };
  const install = (shareCode: string, signers: Record<string, string> = {}): Promise<void> =>
    attempt(
      'install',
      async () => {
        const installed = await sendJson<InstalledRelease[]>('POST', `${at}/install`, {
          shareCode,
          ...(Object.keys(signers).length > 0 ? { signers } : {}),
        });
        setCode('');
        const fetched = installed.reduce((sum, one) => sum + one.fetched, 0);
        return `${installed.map(({ title, version }) => `${title} ${version}`).join(', ')}: installed and verified, ${bytes(fetched)} fetched.`;
      },
      (signer) => signer && void install(shareCode, { ...signers, [signer.mod]: signer.signer }),
    );
  const change = (name: string, what: 'enable' | 'disable' | 'back' | 'remove', anyway = false): void =>
    void attempt(
      `${what} ${name}`,
      async () => {
        setState(await sendJson<ModsState>('POST', `${at}/${name}/${what}`, anyway ? { anyway } : {}));
      },
      anyway || what === 'enable' || what === 'back' ? undefined : () => change(name, what, true),
    );
  const play = (name: string) =>
    void attempt(`play ${name}`, async () => {
      setState(await sendJson<ModsState>('POST', `${at}/${name}/play`, {}));
    });
  const quit = () =>
    void attempt('quit', async () => {
      setState(await sendJson<ModsState>('POST', `${at}/quit`, {}));
    });
  const verify = (name: string) =>
    void attempt(`verify ${name}`, async () => {
      const { problem: wrong } = await sendJson<{ problem: string | null }>('POST', `${at}/${name}/verify`, {});
      setVerified((known) => ({ ...known, [name]: wrong }));
    });
  const moveUp = (name: string) =>
    void attempt('order', async () => {
      const order = [name, ...state!.order.filter((one) => one !== name)];
      setState(await sendJson<ModsState>('PUT', `${at}/order`, { order }));
    });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    void install(code);
  };
  if (!state) return problem ? <Trouble retry={load}>{problem.text}</Trouble> : <Busy what="Looking for mods" />;
  return (
    <>
      <form className="d-flex gap-2 align-items-end mb-3 flex-wrap" onSubmit={submit}>
        <div>
          <label className="form-label mb-0" htmlFor="mods-code">
            Install by share code
          </label>
          <input
            id="mods-code"
            className="form-control mono"
            value={code}
            placeholder="K7PM-2QXD"
            onChange={(event) => setCode(event.target.value)}
          />
        </div>
        <button className="btn btn-primary" disabled={busy !== '' || code.trim() === ''}>
          <Icon name="cloud-download" /> {busy === 'install' ? 'Installing …' : 'Install'}
        </button>
        <span className="faint">with all that it needs, each file verified</span>
      </form>
      {said && (
        <p className="stamp clear" role="status">
          <Icon name="check-circle" /> {said}
        </p>
      )}
      {problem && (
        <p className="severity blocker text-wrap" role="alert">
          {problem.text}{' '}
          {problem.anyway && (
            <button className="btn btn-quiet btn-sm py-0" onClick={problem.anyway}>
              Do it anyway
            </button>
          )}
        </p>
      )}
      {state.running && (
        <p className="stamp running" role="status">
          <Icon name="controller" /> The game runs with {state.running}.{' '}
          <button className="btn btn-quiet btn-sm py-0" onClick={quit}>
            End it
          </button>
        </p>
      )}
      <section className="panel mb-3" aria-label="Installed mods">
        <header>
          <h2>Installed</h2>
          <span className="faint">
            {plural(state.mods.length, 'mod')} in {state.game}
          </span>
        </header>
        {state.mods.length === 0 ? (
          <p className="body faint mb-0">None yet. Choose one below, or type a share code.</p>
        ) : (
          <ul className="mod-list">
            {state.mods.map((mod) => (
              <ModRow
                key={mod.name}
                mod={mod}
                update={updates[mod.name]}
                verified={verified[mod.name]}
                busy={busy.endsWith(` ${mod.name}`)}
                idle={!state.running}
                conflicts={state.conflicts.filter(({ mods }) => mods.includes(mod.name))}
                onUpdate={() => void install(updates[mod.name].shareCode)}
                onChange={(what) => change(mod.name, what)}
                onVerify={() => verify(mod.name)}
                onPlay={() => play(mod.name)}
              />
            ))}
          </ul>
        )}
        {state.conflicts.length > 0 && (
          <div className="body" role="note">
            <h3>Two bring the same file</h3>
            <ul className="mb-0">
              {state.conflicts.map(({ path, mods }) => (
                <li key={path} data-conflict={path}>
                  <span className="mono">{path}</span>: that of <strong>{mods[0]}</strong> counts.{' '}
                  {mods.slice(1).map((name) => (
                    <button key={name} className="btn btn-quiet btn-sm py-0" onClick={() => moveUp(name)}>
                      Let {name} count
                    </button>
                  ))}
                </li>
              ))}
            </ul>
          </div>
        )}
      </section>
      <BrowseWorkshop
        game={game}
        installed={new Map(state.mods.map(({ name, version }) => [name, version]))}
        busy={busy !== ''}
        install={(shareCode) => void install(shareCode)}
      />
    </>
  );
}
