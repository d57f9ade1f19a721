import { useEffect, useState } from 'react';
import { Modal } from 'react-bootstrap';
import { useNavigate } from 'react-router';
import { templatesOf, type Template } from '@violet-crate/core/crate/template';
import { nameProblem, properName } from '@violet-crate/core/crate/naming';
import type { BasePack } from '@violet-crate/core/crate/basePack';
import { getJson, message, sendJson } from '../api/http.ts';
import type { CrateView, Game } from '../api/types.ts';
import { Icon } from '../common/Icon.tsx';
import { TemplatePicture } from './TemplatePicture.tsx';

const TEMPLATES: { id: Template | 'example'; title: string; text: string }[] = [
  { id: 'ridge-race', title: 'Ridge race', text: 'A short race down a ridge. Builds, can be finished and packed as it is.' },
  { id: 'open-field', title: 'Open field', text: 'Gentle ground under a sky, with what the game cannot do without.' },
  { id: 'snow-bowl', title: 'Bowl', text: 'A round bowl whose rim rises all around, with what the game cannot do without.' },
  { id: 'two-rooms', title: 'Two rooms', text: 'Two rooms with a doorway between them, each lit. Builds and runs at once.' },
  { id: 'stair-hall', title: 'Stair hall', text: 'A high hall with a stair to a gallery. Builds and runs at once.' },
  { id: 'sealed-room', title: 'Sealed room', text: 'One closed room with a start and a light. Builds and runs at once.' },
  { id: 'blank', title: 'Blank', text: 'An empty map and a script that says hello.' },
  { id: 'example', title: 'Copy of the example', text: 'The whole crate that ships with the game, to take apart.' },
];

/** Title, short name and template; shows every file before anything is made. */
export function NewCrate({ games, taken, close }: { games: Game[]; taken: string[]; close(): void }) {
  const navigate = useNavigate();
  const [profileId, setProfileId] = useState(games[0].profile.id);
  const [title, setTitle] = useState('');
  const [typedName, setName] = useState<string | null>(null);
  const [template, setTemplate] = useState<string | null>(null);
  const [files, setFiles] = useState<string[]>([]);
  const [problem, setProblem] = useState('');
  const [busy, setBusy] = useState(false);
  const { profile } = games.find((game) => game.profile.id === profileId)!;
  const name = typedName ?? (title ? properName(profile, 'crate', title) : '');
  const nameWrong = nameProblem(profile, 'crate', name, taken);
  const offered = [...templatesOf(profile), ...(profile.example === undefined ? [] : (['example'] as const))].map((id) =>
    TEMPLATES.find((t) => t.id === id)!,
  );
  const [stock, setStock] = useState<string[]>([]);
  useEffect(() => {
    let current = true;
    getJson<BasePack>(`/api/games/${profileId}/pack`)
      .then(({ files: paths }) => current && setStock(paths.flatMap(({ path }) => /^maps\/([^/]+)\.map\.json$/.exec(path)?.[1] ?? [])))
      // A game that is not there has no maps of its own to copy.
      .catch(() => current && setStock([]));
    return () => {
      current = false;
    };
  }, [profileId]);
  const all = [
    ...offered.map((t) => ({ ...t, id: t.id as string })),
    ...stock.map((map) => ({
      id: `stock:${map}`,
      title: `Copy of ${map}`,
      text: 'One of the game’s own maps, to take apart; the game’s stays as it is.',
    })),
  ];
  const chosen = all.find((t) => t.id === template)?.id ?? offered[0].id;
  const request = { profile: profileId, name, title: title.trim(), template: chosen };
  const ready = title.trim() !== '' && !nameWrong;

  useEffect(() => {
    if (!ready) return setFiles([]);
    const timer = setTimeout(() => {
      sendJson<{ files: string[] }>('POST', '/api/crates/plan', request)
        .then((plan) => {
          setFiles(plan.files);
          setProblem('');
        })
        .catch((error) => {
          setFiles([]);
          setProblem(message(error));
        });
    }, 200);
    return () => clearTimeout(timer);
    // The request is rebuilt from these at every render.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [profileId, name, title, chosen, ready]);

  const create = async () => {
    setBusy(true);
    try {
      const view = await sendJson<CrateView>('POST', '/api/crates', request);
      await navigate(`/crates/${view.id}/map`);
    } catch (error) {
      setProblem(message(error));
      setBusy(false);
    }
  };

  return (
    <Modal show onHide={close} size="lg" aria-labelledby="new-crate">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (ready && !busy) void create();
        }}
      >
        <Modal.Header closeButton>
          <h2 id="new-crate" className="m-0">
            New crate
          </h2>
        </Modal.Header>
        <Modal.Body className="row g-3">
          <div className="col-md-7">
            <label className="form-label" htmlFor="crate-title">
              Title
            </label>
            <input
              id="crate-title"
              className="form-control mb-2"
              autoFocus
              value={title}
              onChange={(event) => setTitle(event.target.value)}
              placeholder="Harbour Steps"
            />
            <label className="form-label" htmlFor="crate-name">
              Short name
            </label>
            <input
              id="crate-name"
              className={`form-control mono ${name && nameWrong ? 'is-invalid' : ''}`}
              value={name}
              onChange={(event) => setName(event.target.value)}
              aria-describedby="crate-name-help"
              spellCheck={false}
            />
            <div
              id="crate-name-help"
              className={name && nameWrong ? 'severity blocker small my-1' : 'form-text mb-2'}
              role={name && nameWrong ? 'alert' : undefined}
            >
              {name && nameWrong ? nameWrong : profile.naming.crate.description}
            </div>
            <label className="form-label" htmlFor="crate-game">
              Game
            </label>
            <select id="crate-game" className="form-select mb-2" value={profileId} onChange={(event) => setProfileId(event.target.value)}>
              {games.map((game) => (
                <option key={game.profile.id} value={game.profile.id}>
                  {game.profile.title} {game.version ?? '(not found on this machine)'}
                </option>
              ))}
            </select>
            <fieldset>
              <legend className="form-label">Begin with</legend>
              {all.map((t) => (
                <label key={t.id} className="d-flex gap-2 mb-1">
                  <input
                    type="radio"
                    className="form-check-input"
                    name="template"
                    value={t.id}
                    checked={chosen === t.id}
                    onChange={() => setTemplate(t.id)}
                  />
                  <TemplatePicture profile={profile} template={t.id} />
                  <span>
                    <strong>{t.title}</strong> <span className="faint">{t.text}</span>
                  </span>
                </label>
              ))}
            </fieldset>
          </div>
          <div className="col-md-5">
            <div className="form-label">These files will be made</div>
            <div className="log" aria-live="polite" style={{ minHeight: '9rem' }}>
              {files.length > 0 ? (
                files.map((file) => <div key={file}>{file}</div>)
              ) : (
                <span className="faint">{problem || 'Give the crate a title first.'}</span>
              )}
            </div>
          </div>
        </Modal.Body>
        <Modal.Footer>
          {problem && (
            <span className="severity blocker flex-grow-1" role="alert">
              {problem}
            </span>
          )}
          <button type="button" className="btn btn-quiet" onClick={close}>
            Cancel
          </button>
          <button className="btn btn-primary" disabled={!ready || busy || files.length === 0}>
            <Icon name="box-seam" /> {busy ? 'Making …' : 'Make the crate'}
          </button>
        </Modal.Footer>
      </form>
    </Modal>
  );
}
