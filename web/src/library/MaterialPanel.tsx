import { useState } from 'react';
import { assetKindOf } from '@violet-crate/core/crate/assetKind';
import type { LibraryEntry } from '@violet-crate/core/library/library';
import type { CrateMaterial } from '@violet-crate/core/crate/manifest';
import { freeName } from '@violet-crate/core/crate/naming';
import { message, sendJson } from '../api/http.ts';
import { Contained } from '../common/Contained.tsx';
import { Icon } from '../common/Icon.tsx';
import { LuxelFactor } from '../common/LuxelFactor.tsx';
import { refreshFiles } from '../state/crateSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import type { AssetSource } from '../api/assetUrl.ts';
import { Amount, Choice } from './fields.tsx';
import { MaterialPreview } from './MaterialPreview.tsx';

/** A material as the profile's types have it, seen on a block, a sphere and a plane while it is changed. */
export function MaterialPanel({ entry, source, onMoved }: { entry: LibraryEntry; source: AssetSource; onMoved(id: string): void }) {
  const dispatch = useAppDispatch();
  const { view, profile, base } = useAppSelector((s) => s.crate);
  const [draft, setDraft] = useState<CrateMaterial>(entry.material!);
  const [problem, setProblem] = useState('');
  if (!view || !profile || !base) return null;
  const own = entry.origin === 'crate';
  const set = (change: Partial<CrateMaterial>) => setDraft({ ...draft, ...change });
  const type = profile.materialTypes.find((t) => t.id === draft.type);
  const textures = [...view.files, ...base.files]
    .map((file) => file.path)
    .filter((path) => assetKindOf(path) === 'texture' && path.startsWith('textures/'));
  const picture = (key: 'texture' | 'normal' | 'packed' | 'emissionMap', label: string) => (
    <Choice
      id={key}
      label={label}
      value={draft[key] ?? ''}
      disabled={!own}
      values={[['', 'none'], ...textures.map((path): [string, string] => [path, path.slice(9)])]}
      onChange={(path) => set({ [key]: path || undefined })}
    />
  );
  const save = async (material: CrateMaterial) => {
    setProblem('');
    try {
      await sendJson('PUT', `/api/crates/${view.id}/materials/${material.name}`, { material });
      await dispatch(refreshFiles(view.id));
      onMoved(`material:${material.name}`);
    } catch (error) {
      setProblem(message(error));
    }
  };
  const changed = JSON.stringify(draft) !== JSON.stringify(entry.material);
  return (
    <>
      <Contained what="The preview">
        <MaterialPreview material={draft} source={source} profile={profile} />
      </Contained>
      <p className="faint mt-2 mb-2">{type?.description}</p>
      <section className="panel">
        <div className="body">
          <div className="settings">
            <Choice
              id="type"
              label="Type"
              value={draft.type}
              disabled={!own}
              values={profile.materialTypes.map((t): [string, string] => [t.id, t.label])}
              onChange={(value) => set({ type: value })}
            />
            <Amount
              id="repeat"
              label="One repeat covers"
              unit={profile.unit.plural}
              value={draft.unitsPerRepeat}
              min={1}
              disabled={!own}
              onChange={(unitsPerRepeat) => unitsPerRepeat > 0 && set({ unitsPerRepeat })}
            />
            {picture('texture', 'Colour')}
            {picture('normal', 'Normal map')}
            {picture('packed', 'Occlusion, roughness, metalness')}
            {picture('emissionMap', 'Emission map')}
            <Amount
              id="roughness"
              label="Roughness"
              value={draft.roughness ?? 0.9}
              min={0}
              max={1}
              step={0.05}
              disabled={!own}
              onChange={(roughness) => set({ roughness: Math.min(1, Math.max(0, roughness)) })}
            />
            <Amount
              id="metalness"
              label="Metalness"
              value={draft.metalness ?? 0}
              min={0}
              max={1}
              step={0.05}
              disabled={!own}
              onChange={(metalness) => set({ metalness: Math.min(1, Math.max(0, metalness)) })}
            />
            <Amount
              id="emission"
              label="Emission"
              value={draft.emission ?? 0}
              min={0}
              step={0.1}
              disabled={!own}
              onChange={(emission) => set({ emission: Math.max(0, emission) })}
            />
            <div>
              <label className="form-label" htmlFor="option-luxel">
                Light on it
              </label>
              <LuxelFactor id="option-luxel" value={draft.luxel} otherwise="as the build says" disabled={!own} onChange={(luxel) => set({ luxel })} />
            </div>
            <Choice
              id="surface"
              label="Kind of surface"
              value={draft.surface ?? ''}
              disabled={!own}
              values={[['', 'none'], ...profile.surfaces.map((s): [string, string] => [s.id, `${s.label}, friction ${s.friction}`])]}
              onChange={(surface) => set({ surface: surface || undefined })}
            />
            <div>
              <label className="form-label" htmlFor="option-colour">
                Mean colour
              </label>
              <input
                id="option-colour"
                type="color"
                className="form-control form-control-color w-100"
                value={draft.colour}
                disabled={!own}
                onChange={(event) => set({ colour: event.target.value })}
              />
            </div>
          </div>
          {problem && (
            <div className="severity blocker text-wrap mt-2" role="alert">
              {problem}
            </div>
          )}
          <div className="d-flex gap-2 mt-3">
            {own ? (
              <>
                <button className="btn btn-primary" disabled={!changed} onClick={() => void save(draft)}>
                  Save material
                </button>
                <button className="btn btn-quiet" disabled={!changed} onClick={() => setDraft(entry.material!)}>
                  Take back
                </button>
              </>
            ) : (
              <button
                className="btn btn-quiet"
                onClick={() =>
                  void save({
                    ...draft,
                    name: freeName(
                      `${draft.name}_2`,
                      [...view.manifest.materials, ...base.materials].map((m) => m.name),
                    ),
                  })
                }
              >
                <Icon name="copy" /> Copy it into the crate to change it
              </button>
            )}
          </div>
        </div>
      </section>
    </>
  );
}
