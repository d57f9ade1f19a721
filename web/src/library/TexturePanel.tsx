import { COMPRESSIONS, TEXTURE_USES, type TextureOptions } from '@violet-crate/core/asset/texture/options';
import type { LibraryEntry } from '@violet-crate/core/library/library';
import { round } from '../common/format.ts';
import { useAppSelector } from '../state/store.ts';
import { fileUrl, type AssetSource } from '../three/assets3d.ts';
import { ConversionPanel } from './ConversionPanel.tsx';
import { Amount, Choice, Switch } from './fields.tsx';
import { NewMaterialButton } from './NewMaterialButton.tsx';

/** A picture as it is and as it repeats, and how it is converted. */
export function TexturePanel({ entry, source }: { entry: LibraryEntry; source: AssetSource }) {
  const profile = useAppSelector((s) => s.crate.profile)!;
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
          {(draft, set) => {
            const o = draft as unknown as TextureOptions;
            return (
              <>
                <Choice
                  id="use"
                  label="What it is"
                  value={o.use}
                  values={TEXTURE_USES.filter((value) => value !== 'auto')}
                  onChange={(value) => set({ use: value })}
                />
                <Choice
                  id="compression"
                  label="Compression"
                  value={o.compression}
                  values={COMPRESSIONS}
                  onChange={(compression) => set({ compression })}
                />
                <Amount
                  id="maxSize"
                  label={`Largest side (0: ${profile.textures.maxSize})`}
                  value={o.maxSize}
                  min={0}
                  max={8192}
                  step={1}
                  onChange={(maxSize) => set({ maxSize })}
                />
                <Amount
                  id="strength"
                  label="Height of white"
                  unit="texels"
                  value={o.strength}
                  min={0}
                  max={100}
                  disabled={o.use !== 'height'}
                  onChange={(strength) => set({ strength })}
                />
                <Switch id="cutout" label="Cut out by alpha" value={o.cutout} onChange={(cutout) => set({ cutout })} />
                <Switch
                  id="flipGreen"
                  label="Turn green (normal map)"
                  value={o.flipGreen}
                  disabled={o.use !== 'normal'}
                  onChange={(flipGreen) => set({ flipGreen })}
                />
              </>
            );
          }}
        </ConversionPanel>
      )}
    </>
  );
}
