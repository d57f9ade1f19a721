import { lazy, Suspense, useEffect, useState } from 'react';
import { Outlet, useLocation, useNavigate, useParams } from 'react-router';
import { Busy, Trouble } from '../common/Busy.tsx';
import { Contained } from '../common/Contained.tsx';
import { isTyping } from '../common/isTyping.ts';
import { openCrate, refreshUpdates } from '../state/crateSlice.ts';
import { redone, undone } from '../state/mapSlice.ts';
import { store, useAppDispatch, useAppSelector } from '../state/store.ts';
import { CommandPalette } from './CommandPalette.tsx';
import { appCommands } from './commands.ts';
import { CrateBar } from './CrateBar.tsx';
import { FindingsTray } from './FindingsTray.tsx';
import { LastChange } from './LastChange.tsx';
import { ManifestRail } from './ManifestRail.tsx';

/** It lists all commands of the map, which this page does not need before it is asked for. */
const ShortcutsOverlay = lazy(async () => ({ default: (await import('./ShortcutsOverlay.tsx')).ShortcutsOverlay }));

/** The workbench around one open crate. */
export function CrateFrame() {
  const { id } = useParams();
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const { pathname } = useLocation();
  const { status, error, view } = useAppSelector((s) => s.crate);
  const [palette, setPalette] = useState(false);
  const [keys, setKeys] = useState(false);

  useEffect(() => {
    if (!id) return;
    void dispatch(openCrate(id))
      .unwrap()
      .then(({ view }) => dispatch(refreshUpdates(view)))
      // What is wrong stands in the state, and is shown below.
      .catch(() => {});
  }, [id, dispatch]);

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') setPalette(true);
      else if (event.altKey && /^[1-8]$/.test(event.key)) appCommands(navigate, store.getState)[Number(event.key) - 1].run();
      else if (event.key === 'F9') document.getElementById('tray-toggle')?.click();
      else if (isTyping(event.target)) return;
      else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z') dispatch(event.shiftKey ? redone() : undone());
      else if (event.key === '?') setKeys(true);
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [dispatch, navigate]);

  return (
    <div className="frame">
      <CrateBar openPalette={() => setPalette(true)} openKeys={() => setKeys(true)} />
      <ManifestRail crateId={id ?? ''} />
      <main className="work">
        {status === 'error' ? (
          <div className="page">
            <Trouble retry={() => id && void dispatch(openCrate(id))}>{error}</Trouble>
          </div>
        ) : status !== 'ready' || view?.id !== id ? (
          <Busy what="Opening the crate" />
        ) : (
          <Contained key={pathname} what="This page">
            <Outlet />
          </Contained>
        )}
      </main>
      <LastChange />
      <FindingsTray />
      {palette && <CommandPalette close={() => setPalette(false)} />}
      {keys && (
        <Suspense>
          <ShortcutsOverlay close={() => setKeys(false)} />
        </Suspense>
      )}
    </div>
  );
}
