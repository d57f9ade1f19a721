import { freshId } from '@violet-crate/core/document/edit';
import { inLayer } from '@violet-crate/core/map/member/find';
import { classOf } from '@violet-crate/core/profile/schema';
import { plural } from '../../common/format.ts';
import { AddHeading } from '../../common/AddHeading.tsx';
import { Icon } from '../../common/Icon.tsx';
import { LuxelFactor } from '../../common/LuxelFactor.tsx';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { BedsPanel } from './BedsPanel.tsx';
import { MoodsPanel } from './MoodsPanel.tsx';
import { WearRules } from '../decal/WearRules.tsx';
import { cameraPlace, moveCamera } from '../editing/camera.ts';
import { Field, NumberField, RangeField } from '../../common/fields.tsx';
import { edited } from '../../state/mapSlice.ts';
import { useDocument } from '../editing/useDocument.ts';
import { selected, viewChanged } from '../../state/viewSlice.ts';

export function MapInspector() {
  const dispatch = useAppDispatch();
  const { map, profile, view } = useDocument();
  const objects = Object.entries(map.objects);
  const settings = (part: Partial<typeof map.settings>, name: string) => {
    // What is set back to nothing is left out of the file.
    const to = Object.fromEntries(Object.entries({ ...map.settings, ...part }).filter(([, value]) => value !== undefined)) as typeof map.settings;
    dispatch(edited({ name, changes: [{ of: 'settings', to }] }));
  };
  const { view: crate, base } = useAppSelector((s) => s.crate);
  const skies = [...(crate?.manifest.materials ?? []), ...(base?.materials ?? [])].filter((m) => m.type === 'sky' && m.texture).map((m) => m.name);
  const addBand = () => {
    const bands = Object.values(map.bands);
    const top = Math.max(profile.band.bottom, ...bands.map((b) => b.top));
    const id = `b${Math.max(0, ...Object.keys(map.bands).map((k) => Number(k.slice(1)) || 0)) + 1}`;
    dispatch(
      edited({
        name: 'add band',
        changes: [{ of: 'bands', id, to: { name: `Level ${bands.length + 1}`, bottom: top, top: top + profile.band.top - profile.band.bottom } }],
      }),
    );
    dispatch(viewChanged({ band: id }));
  };
  return (
    <>
      <h2 className="m-0">Map</h2>
      <p className="faint small mb-2">
        {plural(Object.keys(map.solids).length, 'solid')}, {plural(objects.length, 'object')}, {plural(Object.keys(map.signals).length, 'signal')}.
        Select something to see its properties.
      </p>
      <AddHeading title="Bands" onAdd={addBand} />
      {Object.entries(map.bands).map(([id, band]) => (
        <div key={id} className="d-flex gap-1 mb-1 align-items-center">
          <input
            type="radio"
            className="form-check-input"
            name="band"
            aria-label={`Draw in ${band.name}`}
            checked={view.band === id}
            onChange={() => dispatch(viewChanged({ band: id }))}
          />
          <div className="flex-grow-1">
            <TextFieldInline
              name={`Name of band ${band.name}`}
              value={band.name}
              onCommit={(name) => dispatch(edited({ name: 'rename band', changes: [{ of: 'bands', id, to: { ...band, name } }] }))}
            />
          </div>
          <span className="mono small text-nowrap">
            {band.bottom} … {band.top}
          </span>
          {Object.keys(map.bands).length > 1 && (
            <button
              className="btn btn-quiet btn-sm py-0"
              aria-label={`Remove band ${band.name}`}
              onClick={() => dispatch(edited({ name: 'remove band', changes: [{ of: 'bands', id, to: null }] }))}
            >
              <Icon name="x" />
            </button>
          )}
        </div>
      ))}
      <h3>Sky</h3>
      <Field label="Colour" id="sky-colour">
        <input
          id="sky-colour"
          type="color"
          className="form-control form-control-color"
          value={map.settings.skyColour}
          onChange={(e) => settings({ skyColour: e.target.value }, 'change sky colour')}
        />
      </Field>
      <NumberField
        label="Brightness"
        value={map.settings.skyIntensity}
        min={0}
        max={50}
        onCommit={(skyIntensity) => settings({ skyIntensity }, 'change sky brightness')}
      />
      <Field label="Picture" id="sky-material">
        <select
          id="sky-material"
          className="form-select"
          value={map.settings.skyMaterial ?? ''}
          disabled={skies.length === 0}
          title={skies.length === 0 ? 'Import a picture as a sky first' : 'Its light falls into the map instead of the colour’s'}
          onChange={(e) => settings({ skyMaterial: e.target.value || undefined }, 'change picture of the sky')}
        >
          <option value="">none: the colour alone</option>
          {skies.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </select>
      </Field>
      <Field label="Light" id="map-luxel">
        <LuxelFactor
          id="map-luxel"
          value={map.settings.luxel}
          otherwise="as the build says"
          onChange={(luxel) => settings({ luxel }, 'fineness of light')}
        />
      </Field>
      <MoodsPanel settings={settings} />
      <BedsPanel settings={settings} />
      <MapLists />
      <WearRules />
      <h3>Objects</h3>
      {objects.length === 0 && <div className="faint small">None yet. Press 4 to place one.</div>}
      <div className="d-flex flex-wrap gap-1">
        {objects.slice(0, LISTED).map(([id, object]) => (
          <button key={id} className="btn btn-quiet btn-sm py-0" onClick={() => dispatch(selected({ kind: 'objects', ids: [id] }))}>
            <Icon name={classOf(profile, object.class)?.icon ?? 'question'} /> {object.name}
          </button>
        ))}
      </div>
      {objects.length > LISTED && (
        <button className="btn btn-link btn-sm p-0" onClick={() => dispatch(viewChanged({ panel: 'outline' }))}>
          and {objects.length - LISTED} more in the outline
        </button>
      )}
    </>
  );
}

const LISTED = 80;

function MapLists() {
  const dispatch = useAppDispatch();
  const { map, view } = useDocument();
  const drop = (of: 'layers' | 'sets' | 'bookmarks', id: string, name: string) =>
    dispatch(edited({ name: `remove ${name}`, changes: [{ of, id, to: null }] }));
  const keepCamera = () => {
    const place = cameraPlace();
    if (!place) return;
    const id = freshId(map.bookmarks, 'v');
    dispatch(
      edited({ name: 'keep camera', changes: [{ of: 'bookmarks', id, to: { name: `View ${Object.keys(map.bookmarks).length + 1}`, ...place } }] }),
    );
  };
  const remove = (of: 'layers' | 'sets' | 'bookmarks', id: string, name: string) => (
    <button className="btn btn-quiet btn-sm py-0" aria-label={`Remove ${name}`} onClick={() => drop(of, id, name)}>
      <Icon name="x" />
    </button>
  );
  return (
    <>
      <h3>Layers</h3>
      {Object.keys(map.layers).length === 0 && <div className="faint small">None. Select things, then Objects › Move to a layer.</div>}
      {Object.entries(map.layers).map(([id, layer]) => (
        <div key={id} className="d-flex gap-2 align-items-center">
          <input
            type="checkbox"
            className="form-check-input m-0"
            aria-label={`Show layer ${layer.name}`}
            checked={!view.hiddenLayers[id]}
            onChange={(e) => {
              const { [id]: _shown, ...rest } = view.hiddenLayers;
              dispatch(viewChanged({ hiddenLayers: e.target.checked ? rest : { ...rest, [id]: true } }));
            }}
          />
          <span className="flex-grow-1">{layer.name}</span>
          <button
            className="btn btn-link btn-sm p-0"
            onClick={() => dispatch(selected({ solids: inLayer(map.solids, id), objects: inLayer(map.objects, id) }))}
          >
            select
          </button>
          {remove('layers', id, layer.name)}
        </div>
      ))}
      <div className="d-flex align-items-center">
        <h3 className="flex-grow-1">Cameras</h3>
        <button className="btn btn-quiet btn-sm py-0" onClick={keepCamera}>
          <Icon name="bookmark-plus" /> Keep this view
        </button>
      </div>
      {Object.entries(map.bookmarks).map(([id, mark]) => (
        <div key={id} className="d-flex gap-2 align-items-center">
          <button
            className="btn btn-link btn-sm p-0 flex-grow-1 text-start"
            onClick={() => moveCamera({ position: mark.position, target: mark.target })}
          >
            {mark.name}
          </button>
          {remove('bookmarks', id, mark.name)}
        </div>
      ))}
      {Object.keys(map.sets).length > 0 && <h3>Sets</h3>}
      {Object.entries(map.sets).map(([id, set]) => (
        <div key={id} className="d-flex gap-2 align-items-center">
          <button
            className="btn btn-link btn-sm p-0 flex-grow-1 text-start"
            onClick={() =>
              dispatch(selected({ solids: set.solids.filter((s) => map.solids[s]), objects: set.objects.filter((o) => map.objects[o]) }))
            }
          >
            {set.name} ({set.solids.length + set.objects.length})
          </button>
          {remove('sets', id, set.name)}
        </div>
      ))}
      <h3>Perspective</h3>
      <RangeField
        label="Time of day"
        hint="Time of day, preview only"
        min={0}
        max={24}
        step={0.25}
        value={view.hour}
        onChange={(hour) => dispatch(viewChanged({ hour, lit: true }))}
      />
      <RangeField
        label="Field of view"
        hint="Field of view in degrees"
        min={30}
        max={110}
        step={5}
        value={view.fieldOfView}
        onChange={(fieldOfView) => dispatch(viewChanged({ fieldOfView }))}
      />
      <RangeField
        label="Sees to"
        hint="Far distance in units"
        min={256}
        max={32768}
        step={256}
        value={view.far}
        onChange={(far) => dispatch(viewChanged({ far }))}
      />
    </>
  );
}

function TextFieldInline({ name, value, onCommit }: { name: string; value: string; onCommit(text: string): void }) {
  return (
    <input
      key={value}
      className="form-control"
      aria-label={name}
      defaultValue={value}
      onBlur={(e) => e.target.value.trim() !== '' && e.target.value !== value && onCommit(e.target.value.trim())}
      onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
    />
  );
}
