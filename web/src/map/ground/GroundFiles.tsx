import { useState } from 'react';
import type { Terrain } from '@violet-crate/core/document/schema';
import { heightFormat, writePngHeights, writeRawHeights, writeTiffHeights } from '@violet-crate/core/terrain/file/heights';
import { writeMask } from '@violet-crate/core/terrain/file/masks';
import { groundOf } from '@violet-crate/core/terrain/ground';
import { ChoiceField, NumberField } from '../../common/fields.tsx';
import { Icon } from '../../common/Icon.tsx';
import { saveFile } from '../../common/saveFile.ts';
import { useAppSelector } from '../../state/store.ts';
import { useDocument } from '../editing/useDocument.ts';
import type { useGroundWork } from './useGroundWork.ts';

interface Props {
  id: string;
  terrain: Terrain;
  busy: boolean;
  run: ReturnType<typeof useGroundWork>['run'];
}

const fileName = (terrain: Terrain, rest: string): string => `${terrain.name.replace(/[^a-z0-9_]+/gi, '_')}${rest}`;
const blobOf = (bytes: Uint8Array): Blob => new Blob([bytes.slice().buffer]);

/** Ground by open formats, in and out: heights, masks of surfaces, models. */
export function GroundFiles(props: Props) {
  return (
    <>
      <HeightFiles {...props} />
      <MaskFiles {...props} />
      <ModelFiles {...props} />
    </>
  );
}

function HeightFiles({ id, terrain, busy, run }: Props) {
  const { map, profile } = useDocument();
  const [file, setFile] = useState<File | null>(null);
  const [low, setLow] = useState(terrain.range[0]);
  const [high, setHigh] = useState(terrain.range[1]);
  const [spacing, setSpacing] = useState(terrain.spacing);
  const [width, setWidth] = useState(0);
  const [depth, setDepth] = useState('');
  const format = file && heightFormat(file.name);

  const bringIn = async () => {
    const bytes = new Uint8Array(await file!.arrayBuffer());
    const raw = { ...(width > 0 ? { width } : {}), ...(depth ? { depth: depth as 'u16' | 'f32' } : {}) };
    run(id, { kind: 'heights', file: file!.name, bytes, range: high > low ? [low, high] : null, spacing, raw });
    setFile(null);
  };
  const takeOut = (as: 'png' | 'tif' | 'r16' | 'r32') => {
    const ground = groundOf(map, id)!;
    const [nx, ny] = terrain.samples;
    const heights = ground.grid();
    const range = as === 'png' || as === 'r16' ? terrain.range : ground.reach;
    const bytes =
      as === 'png'
        ? writePngHeights(heights, nx, ny, range)
        : as === 'tif'
          ? writeTiffHeights(heights, nx, ny)
          : writeRawHeights(heights, nx, ny, as === 'r16' ? 'u16' : 'f32', range);
    saveFile(fileName(terrain, `.${as}`), blobOf(bytes));
  };
  return (
    <>
      <h3>Heights from a file</h3>
      <label className="btn btn-quiet btn-sm">
        <Icon name="upload" /> {file?.name ?? 'PNG, TIFF or raw …'}
        <input
          type="file"
          accept=".png,.tif,.tiff,.r16,.r32,.raw,.bin"
          className="visually-hidden"
          aria-label="File of heights"
          onChange={(e) => setFile(e.target.files?.[0] ?? null)}
        />
      </label>
      {file && (
        <>
          {format !== 'tiff' && (
            <>
              <NumberField label="Black is" value={low} onCommit={setLow} />
              <NumberField label="White is" value={high} onCommit={setHigh} />
            </>
          )}
          {format === 'raw' && (
            <>
              <NumberField label="Samples a row" value={width} min={0} max={4097} onCommit={(v) => setWidth(Math.round(v))} />
              <ChoiceField
                label="Numbers"
                value={depth}
                choices={[
                  ['', 'as the ending says'],
                  ['u16', '16 bits'],
                  ['f32', '32-bit numbers'],
                ]}
                onCommit={setDepth}
              />
            </>
          )}
          <NumberField label="Samples apart" unit={profile.unit.plural} value={spacing} min={0.01} max={1024} onCommit={setSpacing} />
          <p className="faint small mb-1">The ground takes the file’s number of samples and remembers these settings. It can be undone.</p>
          <button className="btn btn-primary btn-sm" disabled={busy} onClick={() => void bringIn()}>
            Use these heights
          </button>
        </>
      )}
      <div className="d-flex flex-wrap gap-1 mt-1">
        {(['png', 'tif', 'r16', 'r32'] as const).map((as) => (
          <button key={as} className="btn btn-quiet btn-sm" onClick={() => takeOut(as)} title={`Heights as .${as}`}>
            <Icon name="download" /> {as.toUpperCase()}
          </button>
        ))}
      </div>
    </>
  );
}

/** What a surface covers, as a grey picture. */
function MaskFiles({ id, terrain, busy, run }: Props) {
  const { map } = useDocument();
  const [of, setOf] = useState(terrain.surfaces[terrain.surfaces.length - 1].id);
  const surface = terrain.surfaces.find((one) => one.id === of) ?? terrain.surfaces[0];
  const bringIn = async (file: File) =>
    run(id, { kind: 'mask', surface: surface.id, file: file.name, bytes: new Uint8Array(await file.arrayBuffer()) });
  return (
    <>
      <h3>Surfaces as masks</h3>
      <ChoiceField label="Surface" value={surface.id} choices={terrain.surfaces.map((one) => [one.id, one.label])} onCommit={setOf} />
      <div className="d-flex flex-wrap gap-1">
        <label
          className={`btn btn-quiet btn-sm ${busy ? 'disabled' : ''}`}
          title={`A grey PNG of ${terrain.samples.join(' × ')} pixels: white where it covers all`}
        >
          <Icon name="upload" /> PNG …
          <input
            type="file"
            accept=".png"
            className="visually-hidden"
            aria-label={`Mask of ${surface.label}`}
            disabled={busy}
            onChange={(e) => {
              const [file] = e.target.files ?? [];
              e.target.value = '';
              if (file) void bringIn(file);
            }}
          />
        </label>
        <button
          className="btn btn-quiet btn-sm"
          onClick={() =>
            saveFile(fileName(terrain, `_${surface.label.replace(/[^a-z0-9_]+/gi, '_')}.png`), blobOf(writeMask(groundOf(map, id)!, surface.id)))
          }
        >
          <Icon name="download" /> PNG
        </button>
      </div>
    </>
  );
}

/** The ground as triangles; the server makes them from what is saved. */
function ModelFiles({ terrain }: Props) {
  const { profile } = useDocument();
  const crateId = useAppSelector((s) => s.map.crateId);
  const name = useAppSelector((s) => s.map.name);
  const [error, setError] = useState(() => terrain.spacing / 8);
  const address = (form: string) => `/api/crates/${crateId}/maps/${name}/export.${form}?only=ground&error=${error}`;
  return (
    <>
      <h3>Ground as a model</h3>
      <NumberField label="Keeps within" unit={profile.unit.plural} value={error} min={0} max={1000} onCommit={setError} />
      <div className="d-flex gap-1">
        {(['glb', 'obj'] as const).map((form) => (
          <a key={form} className="btn btn-quiet btn-sm" href={address(form)} download>
            <Icon name="download" /> {form.toUpperCase()}
          </a>
        ))}
      </div>
    </>
  );
}
