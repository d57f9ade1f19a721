import { useState } from 'react';
import { Link } from 'react-router';
import { message, sendJson } from '../api/http.ts';
import type { InstalledRelease, WorkshopState } from '../api/types.ts';
import { Icon } from '../common/Icon.tsx';
import { useAppSelector } from '../state/store.ts';

/** Installs the release as everyone else would, and shows what testers said. */
export function PlayerStep({ workshop }: { workshop: WorkshopState | null }) {
  const { releases, profile } = useAppSelector((s) => s.crate);
  const [typed, setCode] = useState<string | null>(null);
  const [installed, setInstalled] = useState<InstalledRelease[] | null>(null);
  const [problem, setProblem] = useState('');
  const [busy, setBusy] = useState(false);
  const code = typed ?? releases?.[0]?.shareCode ?? '';
  const install = async () => {
    setBusy(true);
    setProblem('');
    setInstalled(null);
    try {
      setInstalled(await sendJson<InstalledRelease[]>('POST', `/api/games/${profile!.id}/mods/install`, { shareCode: code }));
    } catch (error) {
      setProblem(message(error));
    }
    setBusy(false);
  };
  const tests = workshop?.mod?.tests ?? [];
  return (
    <section className="panel">
      <header>
        <h2>Test it as a player</h2>
        <Link className="btn btn-quiet btn-sm" to={`/mods/${profile?.id}`}>
          <Icon name="controller" /> Mods of {profile?.title}
        </Link>
      </header>
      <div className="body publish-form">
        <p className="mb-0 faint">
          Install it from the workshop, as everyone else would: what only lies on your own machine is missing then, and not after it is listed.
        </p>
        <form
          className="d-flex gap-2 align-items-end"
          onSubmit={(event) => {
            event.preventDefault();
            void install();
          }}
        >
          <div>
            <label className="form-label" htmlFor="share-code">
              Install a release into the game
            </label>
            <input
              id="share-code"
              className="form-control mono"
              value={code}
              onChange={(event) => setCode(event.target.value)}
              placeholder="Share code"
            />
          </div>
          <button className="btn btn-quiet" disabled={busy || code.trim() === ''}>
            <Icon name="cloud-download" /> {busy ? 'Installing …' : 'Install'}
          </button>
        </form>
        {installed?.map((one) => (
          <div key={one.name} className="stamp clear" role="status" data-installed={one.name}>
            <Icon name="check-circle" /> {one.title} {one.version} is in {one.folder}; {one.verified} files verified by SHA-256.
          </div>
        ))}
        {problem && (
          <div className="severity blocker text-wrap" role="alert">
            {problem}
          </div>
        )}
        <h3>What testers say</h3>
        {tests.length === 0 ? (
          <p className="mb-0 faint">
            Nothing yet. Whoever has the share code can say on the workshop’s page that it works; a private release needs testers of your
            organisation.
          </p>
        ) : (
          <ul className="mb-0">
            {tests.map((test) => (
              <li key={`${test.who} ${test.version}`}>
                <Icon name={test.works ? 'check-circle' : 'x-octagon'} /> {test.who} on {test.version}: {test.works ? 'works' : 'does not work'}.{' '}
                {test.note}
              </li>
            ))}
          </ul>
        )}
      </div>
    </section>
  );
}
