import { lazy, Suspense, useState } from 'react';
import { LogPointForm } from '../scripts/LogPointForm.tsx';
import { useAround, useMargins } from '../scripts/useAround.ts';
import { saveScripts } from '../checks/savingScripts.ts';
import { Busy } from '../common/Busy.tsx';
import { scriptTyped } from '../state/scriptsSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';

/** An editor is a large piece of code that a run can begin without. */
const LuaEditor = lazy(async () => ({ default: (await import('../scripts/LuaEditor.tsx')).LuaEditor }));

/** A script of the crate beside the running map: what is typed is saved, and loaded into the run. */
export function ScriptPanel() {
  const dispatch = useAppDispatch();
  const { view, profile, scripts } = useAppSelector((s) => s.crate);
  const [chosen, setChosen] = useState('');
  const [logLine, setLogLine] = useState<number | null>(null);
  const around = useAround();
  const main = profile?.scripts.main ?? '';
  const margins = useMargins(scripts[chosen] !== undefined ? chosen : scripts[main] !== undefined ? main : (Object.keys(scripts).sort()[0] ?? ''));
  const paths = Object.keys(scripts).sort();
  if (!view || !profile || !around || paths.length === 0) return <div className="faint p-2">The crate has no scripts yet.</div>;
  const path = scripts[chosen] === undefined ? (scripts[profile.scripts.main] === undefined ? paths[0] : profile.scripts.main) : chosen;
  return (
    <div className="script-panel">
      <div className="p-2">
        <label className="visually-hidden" htmlFor="trial-script">
          Script
        </label>
        <select id="trial-script" className="form-select form-select-sm mono" value={path} onChange={(event) => setChosen(event.target.value)}>
          {paths.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
        <p className="faint small mb-0 mt-1">
          Loaded into the run when you stop typing. Values of globals are kept; locals begin anew, and {profile.scripts.startup} is not called again.
        </p>
      </div>
      {logLine !== null && <LogPointForm key={`${path}:${logLine}`} path={path} line={logLine} onDone={() => setLogLine(null)} />}
      <div className="flex-grow-1 overflow-hidden">
        <Suspense fallback={<Busy what="Opening the editor" />}>
          <LuaEditor
            path={path}
            source={scripts[path]}
            around={around}
            margins={margins}
            onMargin={setLogLine}
            onChange={(source) => void dispatch(scriptTyped({ crateId: view.id, path, source }))}
            onSave={() => void saveScripts()}
          />
        </Suspense>
      </div>
    </div>
  );
}
