import { TEXTURE_OPTIONS } from '@violet-crate/core/asset/texture/options';
import type { LibraryEntry } from '@violet-crate/core/library/library';
import { round } from '../common/format.ts';
import { fileUrl, type AssetSource } from '../api/assetUrl.ts';
import { ConversionPanel } from './ConversionPanel.tsx';
import { OptionFields } from './OptionFields.tsx';
import { NewMaterialButton } from './NewMaterialButton.tsx';

/** A picture as it is and as it repeats, and how it is converted. */
export function TexturePanel({ entry, source }: { entry: LibraryEntry; source: AssetSource }) {
  const record = entry.record;
  const url = entry.preview ? fileUrl(source, entry.preview) : '';
  const packed = record?.options.pack !== undefined;
  const use = String(record?.options.use ?? 'colour');
  const seam = record?.seam;
  return (
    <>
      {url ? (
        <div className="d-flex gap-2 mb-2">
          <figure className="m-0 flex-grow-1">
            <img src={url} alt={`Texture ${entry.name}`} className="picture" />
            <figcaption className="faint small">As it is</figcaption>
          </figure>
          <figure className="m-0 flex-grow-1">
            <div
              className="picture"
              style={{ backgroundImage: `url("${url}")`, backgroundSize: '33.334% 33.334%' }}
              role="img"
              aria-label="The texture, tiled three by three"
            />
            <figcaption className="faint small">Tiled three by three</figcaption>
          </figure>
        </div>
      ) : (
        <p className="faint">There is no preview of it.</p>
      )}
      <p className="faint">
        {record?.width} × {record?.height} texels
        {packed ? ', occlusion, roughness and metalness in red, green and blue' : use === 'colour' ? '' : `, used as ${use}`}
        {seam !== undefined && use === 'colour' && (
          <> · {seam > 3 ? `shows a seam when repeated (${round(seam, 1)}× the step inside)` : `tiles without a visible seam (${round(seam, 1)}×)`}</>
        )}
      </p>
      {use === 'colour' && <NewMaterialButton texture={entry.id} />}
      {entry.origin === 'crate' && record && !packed && (
        <ConversionPanel key={JSON.stringify(record.options)} entry={entry}>
          {(draft, set) => <OptionFields table={TEXTURE_OPTIONS} draft={draft} without={{ use: ['auto'] }} onChange={set} />}
        </ConversionPanel>
      )}
    </>
  );
}
