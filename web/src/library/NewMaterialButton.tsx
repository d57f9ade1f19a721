import { useState } from 'react';
import { useSearchParams } from 'react-router';
import type { CrateMaterial } from '@violet-crate/core/crate/manifest';
import { freeName } from '@violet-crate/core/crate/naming';
import { message, sendJson } from '../api/http.ts';
import { Icon } from '../common/Icon.tsx';
import { refreshFiles } from '../state/crateSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';

/** Makes a material of a texture in one step, and opens it. */
export function NewMaterialButton({ texture }: { texture: string }) {
  const dispatch = useAppDispatch();
  const { view, profile, base } = useAppSelector((s) => s.crate);
  const [, setParams] = useSearchParams();
  const [problem, setProblem] = useState('');
  if (!view || !profile || !base) return null;
  const stem = texture.replace(/^textures\//, '').replace(/\.ktx2$/, '');
  const users = view.manifest.materials.filter((material) => material.texture === texture);
  const make = async () => {
    const known = [...view.manifest.materials, ...base.materials].find((material) => material.texture === texture);
    const material: CrateMaterial = {
      name: freeName(
        stem,
        [...view.manifest.materials, ...base.materials].map((m) => m.name),
      ),
      type: profile.materialTypes[0].id,
      texture,
      colour: known?.colour ?? '#808080',
      unitsPerRepeat: profile.textures.unitsPerRepeat,
    };
    try {
      await sendJson('PUT', `/api/crates/${view.id}/materials/${material.name}`, { material });
      await dispatch(refreshFiles(view.id));
      setParams({ file: `material:${material.name}` });
    } catch (error) {
      setProblem(message(error));
    }
  };
  return (
    <div className="d-flex gap-2 flex-wrap mb-2 align-items-center">
      {users.map((material) => (
        <button key={material.name} className="btn btn-quiet btn-sm" onClick={() => setParams({ file: `material:${material.name}` })}>
          <Icon name="palette2" /> Material {material.name}
        </button>
      ))}
      <button className="btn btn-quiet btn-sm" onClick={() => void make()}>
        <Icon name="plus-lg" /> {users.length > 0 ? 'Another material of it' : 'Make a material of it'}
      </button>
      {problem && <span className="severity blocker">{problem}</span>}
    </div>
  );
}
