import type { LibraryEntry } from '@violet-crate/core/library/library';
import { fileUrl, type AssetSource } from '../api/assetUrl.ts';
import { Icon } from './Icon.tsx';

export const KIND_ICONS: Record<LibraryEntry['kind'], string> = {
  model: 'box',
  material: 'palette2',
  texture: 'image',
  sound: 'soundwave',
  subtitle: 'badge-cc',
  effect: 'stars',
  script: 'code-slash',
};

/** The picture of an asset, the colour of a material, or the icon of what has neither. */
export function Thumb({ entry, source, size }: { entry: LibraryEntry; source: AssetSource; size: number }) {
  const style = { width: size, height: size };
  if (entry.preview)
    return (
      <img
        className={`thumb ${entry.kind}`}
        style={style}
        src={fileUrl(source, entry.preview)}
        alt=""
        loading="lazy"
        decoding="async"
        draggable={false}
      />
    );
  if (entry.material) return <span className="thumb plain" style={{ ...style, background: entry.material.colour }} />;
  return (
    <span className="thumb plain" style={{ ...style, fontSize: size * 0.4 }}>
      <Icon name={KIND_ICONS[entry.kind]} />
    </span>
  );
}
