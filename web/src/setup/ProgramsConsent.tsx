import { useEffect, useState } from 'react';
import { getJson, message, sendJson } from '../api/http.ts';
import type { Programs } from '../api/types.ts';
import { Icon } from '../common/Icon.tsx';

/** Every command that a profile would run. Those of a profile that did not ship run only once the user has read and allowed them. */
export function ProgramsConsent({ profile }: { profile: string }) {
  const [programs, setPrograms] = useState<Programs | null>(null);
  const [problem, setProblem] = useState('');
  const at = `/api/games/${profile}/programs`;
  useEffect(() => {
    getJson<Programs>(at)
      .then(setPrograms)
      .catch((error) => setProblem(message(error)));
  }, [at]);
  const allow = () =>
    void sendJson<Programs>('POST', at, { hash: programs!.hash })
      .then((next) => {
        setPrograms(next);
        setProblem('');
      })
      .catch((error) => setProblem(message(error)));
  return (
    <div className="body">
      {programs && programs.commands.length === 0 && <p className="faint m-0">This profile runs no programs.</p>}
      {programs?.commands.map(({ what, line }, i) => (
        <div key={i} className="mb-2">
          {what}
          <code className="d-block small command-line">{line.join(' ')}</code>
        </div>
      ))}
      {programs && programs.commands.length > 0 && (
        <div className="d-flex gap-2 align-items-center">
          <span className={`stamp ${programs.allowed ? 'clear' : 'blocked'}`}>
            <Icon name={programs.allowed ? 'check-circle' : 'x-octagon'} /> {programs.allowed ? 'allowed' : 'not allowed yet'}
          </span>
          {!programs.allowed && (
            <>
              <span className="flex-grow-1">They run as you, with all that you may do. Read them before you allow them.</span>
              <button className="btn btn-warm" onClick={allow}>
                I have read them; allow
              </button>
            </>
          )}
        </div>
      )}
      {problem && (
        <div className="severity blocker text-wrap mt-2" role="alert">
          {problem}
        </div>
      )}
    </div>
  );
}
