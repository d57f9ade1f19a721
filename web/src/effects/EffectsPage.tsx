import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { nameProblem } from '@violet-crate/core/crate/naming';
import { effectName, effectPath, isEffect, newEffect, writeEffect } from '@violet-crate/core/effect/document';
import { effectsOf } from '@violet-crate/core/effect/effects';
import { Icon } from '../common/Icon.tsx';
import { useAssetSource } from '../common/useLibrary.ts';
import { scriptTyped } from '../state/scriptsSlice.ts';
import { selectFindings } from '../state/findings.ts';
import { selectWorld } from '../state/world.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { EffectEditor } from './EffectEditor.tsx';
import '../common/text/files.css';
import './effects.css';

/** Height of a new effect's particles, in metres. */
const SIZE = 0.06;

/** All effects of the crate, and one of them to be edited. */
export function EffectsPage() {
  const world = useAppSelector(selectWorld);
  const view = useAppSelector((s) => s.crate.view);
  const unsaved = useAppSelector((s) => s.scripts.unsaved.length);
  const trouble = useAppSelector((s) => s.scripts.trouble);
  const findings = useAppSelector(selectFindings);
  const source = useAssetSource();
  const [address, setAddress] = useSearchParams();
  if (!view || !world || !source) return null;
  const paths = Object.keys(world.crate.data).filter(isEffect).sort();
  const titles = new Map(effectsOf(world.crate.data).effects.map(({ path, effect }) => [path, effect.title]));
  const file = address.get('file') ?? paths[0] ?? '';
  const wrongIn = (path: string) => findings.filter(({ place, severity }) => place?.file === path && severity !== 'note').length;
  return (
    <div className="data">
      <nav className="data-nav panel" aria-label="Effects">
        <h2>Effects</h2>
        <ul>
          {paths.map((path) => (
            <li key={path}>
              <button
                className={`data-entry ${path === file ? 'active' : ''}`}
                aria-current={path === file ? 'page' : undefined}
                onClick={() => setAddress({ file: path })}
              >
                <Icon name="stars" /> <span className="flex-grow-1 text-truncate">{titles.get(path) || effectName(path)}</span>
                {wrongIn(path) > 0 && (
                  <span className="warm small" title={`${wrongIn(path)} to mend`}>
                    <Icon name="exclamation-triangle" /> {wrongIn(path)}
                  </span>
                )}
              </button>
            </li>
          ))}
        </ul>
        <NewEffect key={paths.length} taken={paths.map(effectName)} add={(path) => setAddress({ file: path })} />
        <p className="faint small mt-auto mb-0" role="status">
          {trouble || (unsaved > 0 ? 'Saving …' : 'All saved')}
        </p>
      </nav>
      <main className="data-main">
        {Object.hasOwn(world.crate.data, file) ? (
          <EffectEditor key={file} crateId={view.id} world={world} source={source} path={file} gone={() => setAddress({})} />
        ) : (
          <p className="faint p-3">
            {paths.length === 0 ? 'No effects yet. Name one on the left, and choose what it begins as.' : `There is no ${file} any more.`}
          </p>
        )}
      </main>
    </div>
  );
}

function NewEffect({ taken, add }: { taken: string[]; add(path: string): void }) {
  const view = useAppSelector((s) => s.crate.view);
  const profile = useAppSelector((s) => s.crate.profile);
  const dispatch = useAppDispatch();
  const [name, setName] = useState('');
  const [template, setTemplate] = useState('');
  if (!view || !profile) return null;
  const templates = profile.effects?.templates ?? [];
  const problem = name !== '' ? nameProblem(profile, 'file', name, taken) : null;
  return (
    <form
      className="d-flex flex-column gap-1 mb-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (name === '' || problem) return;
        const from = templates.find(({ id }) => id === template)?.effect ?? newEffect(name, SIZE / profile.unit.metres);
        dispatch(scriptTyped({ crateId: view.id, path: effectPath(name), source: writeEffect(from) }));
        add(effectPath(name));
      }}
    >
      <select
        className="form-select form-select-sm"
        aria-label="What a new effect begins as"
        value={template}
        onChange={({ target }) => setTemplate(target.value)}
      >
        <option value="">Begin with nothing</option>
        {templates.map(({ id, label }) => (
          <option key={id} value={id}>
            {label}
          </option>
        ))}
      </select>
      <div className="d-flex gap-1">
        <input
          className={`form-control form-control-sm ${problem ? 'is-invalid' : ''}`}
          placeholder="New effect"
          aria-label="Name of a new effect"
          title={problem ?? undefined}
          value={name}
          onChange={({ target }) => setName(target.value)}
        />
        <button className="btn btn-quiet btn-sm" disabled={name === '' || problem !== null} aria-label="Add the effect">
          <Icon name="plus-lg" />
        </button>
      </div>
      {problem && <span className="warm small">{problem}</span>}
    </form>
  );
}
