import type { ModEntry, ModUpdate } from '../api/types.ts';
import { bytes, plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';

interface Props {
  mod: ModEntry;
  update: ModUpdate | undefined;
  /** What is wrong with its files; null where nothing is, undefined where nobody has looked. */
  verified: string | null | undefined;
  busy: boolean;
  /** The game does not run. */
  idle: boolean;
  conflicts: { path: string }[];
  onUpdate(): void;
  onChange(what: 'enable' | 'disable' | 'back' | 'remove'): void;
  onVerify(): void;
  onPlay(): void;
}

/** One installed mod: what it is, how it stands, and what can be done with it. */
export function ModRow({ mod, update, verified, busy, idle, conflicts, onUpdate, onChange, onVerify, onPlay }: Props) {
  const { name, title, version, enabled, local, before, signer, requires, authors, shareCode } = mod;
  return (
    <li data-mod={name} className={enabled ? '' : 'disabled'}>
      <div className="mod-words">
        <strong>{title}</strong> <span className="mono faint">{name}</span> {version}{' '}
        {!enabled && (
          <span className="stamp open">
            <Icon name="pause-circle" /> disabled
          </span>
        )}{' '}
        {local && (
          <span className="stamp stale" title="Put there by the workbench to try it">
            <Icon name="tools" /> copy of a crate under work
          </span>
        )}{' '}
        {conflicts.length > 0 && (
          <span className="stamp stale">
            <Icon name="intersect" /> {plural(conflicts.length, 'file')} also of another
          </span>
        )}{' '}
        {verified === null && (
          <span className="stamp clear">
            <Icon name="shield-check" /> every file is as it was published
          </span>
        )}
        {typeof verified === 'string' && (
          <span className="severity blocker text-wrap" role="alert">
            {verified}
          </span>
        )}
        <div className="faint">
          {[
            bytes(mod.bytes),
            authors.length > 0 ? `by ${authors.join(', ')}` : '',
            shareCode ?? '',
            signer === false ? 'its signature is broken' : signer === null ? 'not signed' : `signed ${signer}`,
            ...Object.entries(requires).map(([other, range]) => `needs ${other} ${range}`),
          ]
            .filter(Boolean)
            .join(' · ')}
        </div>
        {update && (
          <div className="mod-update">
            <span className={`stamp ${update.withdrawn === undefined ? 'running' : 'blocked'}`}>
              <Icon name="arrow-up-circle" /> {update.version} is given out
            </span>{' '}
            {update.withdrawn !== undefined && (
              <span>
                {version} was withdrawn: {update.withdrawn}
              </span>
            )}{' '}
            <span className="faint">{update.notes.split('\n')[0].replace(/^[-*]\s+/, '')}</span>
          </div>
        )}
      </div>
      <div className="mod-orders">
        {update && (
          <button className="btn btn-warm btn-sm" disabled={busy || !idle} onClick={onUpdate}>
            Take {update.version}
          </button>
        )}
        {enabled && (
          <button className="btn btn-quiet btn-sm" disabled={busy || !idle} onClick={onPlay} aria-label={`Play ${title}`}>
            <Icon name="play-fill" /> Play
          </button>
        )}
        <button className="btn btn-quiet btn-sm" disabled={busy} onClick={onVerify} aria-label={`Verify ${title}`}>
          Verify
        </button>
        {before && (
          <button className="btn btn-quiet btn-sm" disabled={busy || !idle} onClick={() => onChange('back')}>
            Back to {before}
          </button>
        )}
        <button
          className="btn btn-quiet btn-sm"
          disabled={busy || !idle}
          onClick={() => onChange(enabled ? 'disable' : 'enable')}
          aria-label={`${enabled ? 'Disable' : 'Enable'} ${title}`}
        >
          {enabled ? 'Disable' : 'Enable'}
        </button>
        <button className="btn btn-quiet btn-sm" disabled={busy || !idle} onClick={() => onChange('remove')} aria-label={`Remove ${title}`}>
          <Icon name="trash" /> Remove
        </button>
      </div>
    </li>
  );
}
