import { useMemo } from 'react';
import { useAppSelector } from '../../state/store.ts';
import { allMaterials } from '@violet-crate/core/crate/world';
import { previewUrl, type AssetSource } from '../../api/assetUrl.ts';

/** All materials of crate and game as pictures. */
export function MaterialPicker({ value, onPick }: { value: string; onPick(name: string): void }) {
  const view = useAppSelector((s) => s.crate.view)!;
  const base = useAppSelector((s) => s.crate.base)!;
  const profileId = useAppSelector((s) => s.crate.profile)!.id;
  const source = useMemo((): AssetSource => ({ view, profileId }), [view, profileId]);
  const own = new Set(view.manifest.materials.map((m) => m.name));
  const all = allMaterials({ crate: view, base });
  return (
    <div className="materials" role="group" aria-label="Materials">
      {all.map((material) => (
        <button
          key={material.name}
          aria-pressed={material.name === value}
          title={`${material.name} (${material.type}${own.has(material.name) ? ', of this crate' : ''})`}
          onClick={() => onPick(material.name)}
        >
          <span
            className="picture"
            style={material.texture ? { backgroundImage: `url("${previewUrl(source, material.texture)}")` } : { background: material.colour }}
          />
          <span>{material.name}</span>
        </button>
      ))}
    </div>
  );
}
