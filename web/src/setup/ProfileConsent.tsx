import { useEffect, useState, type ReactNode } from 'react';
import { getJson, message, sendJson } from '../api/http.ts';
import type { PlannedWrites, Programs } from '../api/types.ts';
import { Icon } from '../common/Icon.tsx';

interface Props {
  profile: string;
  install: string;
}

/** What a profile would run and write on this machine, as a whole. It does so only once the user has read and allowed it. */
export function ProfileConsent({ profile, install }: Props) {
  return (
    <div className="body">
      <Consent<Programs>
        at={`/api/games/${profile}/programs?install=${install}`}
        warning="They run as you, with all that you may do."
        nothing="This profile runs no programs."
      >
        {({ commands }) =>
          commands.length > 0 &&
          commands.map(({ what, line, folder, environment, files }, i) => (
            <div key={i} className="mb-2">
              {what}
              <code className="d-block small command-line">{line.join(' ')}</code>
              <div className="small faint">
                in {folder}
                {Object.entries(environment).map(([name, value]) => (
                  <span key={name} className="mono">
                    , {name}={value}
                  </span>
                ))}
                {files.map(({ path, sha256 }) => (
                  <div key={path} className="mono text-truncate" title={path}>
                    {sha256 ? `SHA-256 ${sha256.slice(0, 16)}…` : 'missing:'} {path}
                  </div>
                ))}
              </div>
            </div>
          ))
        }
      </Consent>
      <Consent<PlannedWrites> at={`/api/games/${profile}/places?install=${install}`} warning="Steps of the preparation write this on request.">
        {({ writes }) =>
          writes.length > 0 &&
          writes.map(({ file, content }) => (
            <div key={file + content} className="mb-2">
              Writes {file}
              <code className="d-block small command-line">{content}</code>
            </div>
          ))
        }
      </Consent>
    </div>
  );
}

interface ConsentProps<T> {
  at: string;
  warning: string;
  /** What is said where there is nothing. */
  nothing?: string;
  /** What is shown of it; false where there is nothing. */
  children(state: T): ReactNode;
}

function Consent<T extends { hash: string; allowed: boolean }>({ at, warning, nothing, children }: ConsentProps<T>) {
  const [state, setState] = useState<T | null>(null);
  const [problem, setProblem] = useState('');
  useEffect(() => {
    getJson<T>(at)
      .then(setState)
      .catch((error) => setProblem(message(error)));
  }, [at]);
  const allow = () =>
    void sendJson<T>('POST', at, { hash: state!.hash })
      .then((next) => {
        setState(next);
        setProblem('');
      })
      .catch((error) => setProblem(message(error)));
  const shown = state && children(state);
  return (
    <>
      {shown}
      {state && shown && (
        <div className="d-flex gap-2 align-items-center mb-3">
          <span className={`stamp text-nowrap ${state.allowed ? 'clear' : 'blocked'}`}>
            <Icon name={state.allowed ? 'check-circle' : 'x-octagon'} /> {state.allowed ? 'allowed' : 'not allowed yet'}
          </span>
          {!state.allowed && (
            <>
              <span className="flex-grow-1">{warning} Read this before you allow it.</span>
              <button className="btn btn-warm text-nowrap" onClick={allow}>
                I have read this; allow
              </button>
            </>
          )}
        </div>
      )}
      {state && !shown && nothing && <p className="faint m-0">{nothing}</p>}
      {problem && (
        <div className="severity blocker text-wrap mt-2" role="alert">
          {problem}
        </div>
      )}
    </>
  );
}
