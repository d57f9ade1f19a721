import { useEffect, useState } from 'react';
import { ASSET_KINDS, ASSETS, type AssetKind } from '@violet-crate/core/crate/assetKind';
import { getJson, message, sendJson } from '../api/http.ts';
import type { Openers } from '../api/types.ts';

/** Which program of this machine opens which kind of source, each with a button that tries it. */
export function ProgramTable() {
  const [programs, setPrograms] = useState<Openers | null>(null);
  const [notes, setNotes] = useState<Partial<Record<AssetKind, { good: boolean; text: string }>>>({});
  const [problem, setProblem] = useState('');
  useEffect(() => {
    getJson<Openers>('/api/programs')
      .then(setPrograms)
      .catch((error) => setProblem(message(error)));
  }, []);
  const note = (kind: AssetKind, good: boolean, text: string) => setNotes((before) => ({ ...before, [kind]: { good, text } }));
  const keep = async (kind: AssetKind) => {
    const { programs: kept } = await sendJson<Openers>('PUT', '/api/programs', { programs: { [kind]: programs!.programs[kind] } });
    setPrograms((before) => before && { ...before, programs: { ...before.programs, [kind]: kept[kind] } });
  };
  const tryOut = (kind: AssetKind) =>
    void keep(kind)
      .then(() => sendJson<{ program: string; file: string }>('POST', `/api/programs/${kind}/try`, {}))
      .then(({ program, file }) => note(kind, true, `${program} was given ${file}.`))
      .catch((error: unknown) => note(kind, false, message(error)));
  return (
    <section className="panel mb-3" aria-label="Programs">
      <header>
        <h2>Programs that open sources</h2>
      </header>
      <p className="faint">
        “Edit the source in …” opens these, on this machine; what is saved there comes back by itself. Left empty, the system decides.
      </p>
      {programs?.noScreen && (
        <div className="severity warning text-wrap p-2" role="alert">
          {programs.noScreen}
        </div>
      )}
      {problem && (
        <div className="severity blocker text-wrap p-2" role="alert">
          {problem}
        </div>
      )}
      {programs &&
        ASSET_KINDS.map((kind) => (
          <div key={kind} className="preference-row">
            <div>
              <label htmlFor={`program-${kind}`}>{ASSETS[kind].words}</label>
              <div className="faint small">{ASSETS[kind].endings.join(', ')}</div>
              {notes[kind] && (
                <div className={`small text-break ${notes[kind].good ? 'text-clear' : 'text-warm'}`} role="status">
                  {notes[kind].text}
                </div>
              )}
            </div>
            <input
              id={`program-${kind}`}
              className="form-control mono"
              spellCheck={false}
              placeholder={programs.system}
              value={programs.programs[kind] ?? ''}
              onChange={(event) => setPrograms({ ...programs, programs: { ...programs.programs, [kind]: event.target.value } })}
              onBlur={() => void keep(kind).catch((error: unknown) => note(kind, false, message(error)))}
            />
            <button
              className="btn btn-quiet btn-sm"
              disabled={programs.noScreen !== null}
              onClick={() => tryOut(kind)}
              aria-label={`Try the program for ${ASSETS[kind].words.toLowerCase()}`}
            >
              Try
            </button>
          </div>
        ))}
    </section>
  );
}
