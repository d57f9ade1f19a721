import { nameProblem } from '@violet-crate/core/crate/naming';
import { countMembers } from '@violet-crate/core/map/arrange';
import { freshId } from '@violet-crate/core/map/edit';
import { inLayer } from '@violet-crate/core/map/find';
import { intensityForReach, readableReach } from '@violet-crate/core/map/lights';
import { pathLength } from '@violet-crate/core/map/path';
import { findPrefab } from '@violet-crate/core/map/prefab';
import type { Copy, MapObject, PropertyValue } from '@violet-crate/core/map/schema';
import { seriesOf, seriesProblems } from '@violet-crate/core/map/series';
import { boxSize, type Box3 } from '@violet-crate/core/math/box3';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { classOf, hasPart, type PropertyDefinition } from '@violet-crate/core/profile/schema';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { round } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { useAppDispatch, useAppSelector } from '../store.ts';
import { cameraPlace, moveCamera } from './camera.ts';
import { changeObject, paint, resize } from './edits.ts';
import { FacePanel } from './FacePanel.tsx';
import { CheckField, Field, NumberField, TextField, VectorField } from './fields.tsx';
import { MaterialPicker } from './MaterialPicker.tsx';
import { edited } from './mapSlice.ts';
import { PropertyField } from './PropertyField.tsx';
import { SignalEditor } from './SignalEditor.tsx';
import { skyEstimate } from './skyEstimate.ts';
import { startMapCommand } from './startMapCommand.ts';
import { useDocument } from './useDocument.ts';
import { selected, viewChanged } from './viewSlice.ts';

/** Properties of what is selected; of the map itself when nothing is. */
export function Inspector() {
  const { map, view } = useDocument();
  const { selection } = view;
  const solids = selection.solids.filter((id) => map.solids[id]);
  const objects = selection.objects.filter((id) => map.objects[id]);
  const copies = selection.copies.filter((id) => map.copies[id]);
  const paths = selection.paths.filter((id) => map.paths[id]);
  const kinds = [solids, objects, copies, paths].filter((ids) => ids.length > 0).length;
  if (kinds === 0) return <MapInspector />;
  if (kinds > 1) return <ManyKinds />;
  if (solids.length > 0) return <SolidInspector ids={solids} />;
  if (copies.length > 0) return <CopyInspector id={copies[0]} />;
  if (paths.length > 0) return <PathInspector id={paths[0]} />;
  return <ObjectInspector ids={objects} />;
}

function SelectionButtons() {
  return (
    <span className="d-flex gap-1">
      <button className="btn btn-quiet btn-sm" title="Ctrl+D" onClick={() => startMapCommand('duplicate')}>
        <Icon name="copy" /> Duplicate
      </button>
      <button className="btn btn-quiet btn-sm" title="Delete" onClick={() => startMapCommand('delete')}>
        <Icon name="trash" /> Delete
      </button>
    </span>
  );
}

function ManyKinds() {
  const { view } = useDocument();
  const { selection } = view;
  return (
    <>
      <div className="d-flex align-items-center">
        <h2 className="m-0 flex-grow-1">{countMembers(selection)} things</h2>
        <SelectionButtons />
      </div>
      <p className="faint small">
        {[
          [selection.solids.length, 'solids'],
          [selection.objects.length, 'objects'],
          [selection.copies.length, 'copies of prefabs'],
          [selection.paths.length, 'paths'],
        ]
          .filter(([n]) => Number(n) > 0)
          .map(([n, what]) => `${n} ${what}`)
          .join(', ')}
        . They move, turn, duplicate and are deleted together.
      </p>
      <button className="btn btn-quiet btn-sm" onClick={() => startMapCommand('make-prefab')}>
        <Icon name="boxes" /> Make a prefab <kbd>G</kbd>
      </button>
    </>
  );
}

function SolidInspector({ ids }: { ids: string[] }) {
  const dispatch = useAppDispatch();
  const { map, profile, view } = useDocument();
  const { selection } = view;
  const solid = map.solids[ids[0]];
  const { box } = shapeOf(solid);
  const faces = selection.faces.filter((f) => map.solids[f.solid]?.faces[f.face]);
  const looked =
    faces.length > 0
      ? faces.map((f) => map.solids[f.solid].faces[f.face].material)
      : ids.flatMap((id) => map.solids[id].faces.map((f) => f.material));
  const used = new Set(looked).size === 1 ? looked[0] : '';
  const size = boxSize(box);
  const setBox = (to: Box3) => {
    if (to.max.every((v, i) => v - to.min[i] >= profile.grid.min)) dispatch(edited(resize(map, ids[0], to)));
  };
  return (
    <>
      <div className="d-flex align-items-center">
        <h2 className="m-0 flex-grow-1">{ids.length === 1 ? `Solid ${ids[0]}` : `${ids.length} solids`}</h2>
        <SelectionButtons />
      </div>
      {ids.length === 1 && (
        <>
          <VectorField
            label="From"
            value={box.min}
            onCommit={(min) => setBox({ min, max: box.max.map((v, i) => v + min[i] - box.min[i]) as Vec3 })}
          />
          <VectorField label="Size" value={size} onCommit={(next) => setBox({ min: box.min, max: box.min.map((v, i) => v + next[i]) as Vec3 })} />
          <div className="faint small mb-1">
            {size.map((v) => round(v * profile.unit.metres)).join(' × ')} m · {solid.faces.length} faces
          </div>
        </>
      )}
      <CheckField
        label="Detail"
        title="Drawn and solid, but does not seal"
        value={ids.every((id) => map.solids[id].detail)}
        onCommit={() => startMapCommand('detail')}
      />
      {selection.corners.length > 0 && (
        <div className="faint small">{selection.corners.length} corners selected: drag them, or nudge with the arrow keys.</div>
      )}
      <div className="d-flex align-items-center mt-2 mb-1">
        <h3 className="m-0 flex-grow-1">
          Material {faces.length === 0 ? 'of all faces' : faces.length === 1 ? 'of this face' : `of ${faces.length} faces`}
        </h3>
        {faces.length > 0 && (
          <button className="btn btn-quiet btn-sm py-0" onClick={() => dispatch(selected({ kind: 'solids', ids }))}>
            All faces
          </button>
        )}
      </div>
      {faces.length === 0 && ids.length === 1 && <div className="faint small mb-1">To paint one face, click it in the perspective view.</div>}
      <MaterialPicker
        value={used}
        onPick={(material) => {
          const edit = paint(map, selection, material);
          if (edit) dispatch(edited(edit));
          dispatch(viewChanged({ material }));
        }}
      />
      <FacePanel />
    </>
  );
}

/** One object, or several at once: what they have in common is edited together, what differs shows as mixed. */
function ObjectInspector({ ids }: { ids: string[] }) {
  const dispatch = useAppDispatch();
  const { map, profile } = useDocument();
  const objects = ids.map((id) => map.objects[id]);
  const [object] = objects;
  const [id] = ids;
  const same = objects.every((o) => o.class === object.class);
  const objectClass = same ? classOf(profile, object.class) : undefined;
  const others = Object.entries(map.objects)
    .filter(([other]) => other !== id)
    .map(([, o]) => o.name);
  const each = (change: (o: MapObject) => Partial<MapObject>, name: string) =>
    dispatch(edited({ name, changes: ids.map((one) => ({ of: 'objects', id: one, to: { ...map.objects[one], ...change(map.objects[one]) } })) }));
  const setProperty = (key: string, value: PropertyValue) =>
    each(
      (o) => ({ properties: { ...o.properties, [key]: value } }),
      ids.length === 1 ? `change ${key} of ${object.name}` : `change ${key} of ${ids.length} objects`,
    );
  const mixed = (read: (o: MapObject) => unknown) => objects.some((o) => JSON.stringify(read(o)) !== JSON.stringify(read(object)));
  return (
    <>
      <div className="d-flex align-items-center gap-2">
        <Icon name={objectClass?.icon ?? 'boxes'} />
        <h2 className="m-0 flex-grow-1">
          {ids.length === 1 ? (objectClass?.label ?? object.class) : `${ids.length} ${same ? (objectClass?.label ?? 'objects') : 'objects'}`}
        </h2>
        <SelectionButtons />
      </div>
      {objectClass && (
        <p className="faint small mb-2">
          {objectClass.description}
          {objectClass.usedIn && objectClass.usedIn.length > 0 && ` In use in ${objectClass.usedIn.join(', ')}.`}
        </p>
      )}
      {ids.length === 1 ? (
        <>
          <TextField
            label="Name"
            mono
            value={object.name}
            problem={(text) => nameProblem(profile, 'object', text, others)}
            onCommit={(name) => dispatch(edited(changeObject(map, id, { name }, `rename ${object.name}`)))}
          />
          <VectorField label="Position" value={object.position} onCommit={(position) => each(() => ({ position }), `move ${object.name}`)} />
        </>
      ) : (
        <div className="d-flex flex-wrap gap-1 mb-1">
          {ids.map((one) => (
            <button key={one} className="btn btn-quiet btn-sm py-0" onClick={() => dispatch(selected({ kind: 'objects', ids: [one] }))}>
              {map.objects[one].name}
            </button>
          ))}
        </div>
      )}
      <TurnField value={object.turn} mixed={mixed((o) => o.turn)} onCommit={(turn) => each(() => ({ turn: ((turn % 360) + 360) % 360 }), 'turn')} />
      <div className="d-flex gap-1 flex-wrap mb-1">
        <button className="btn btn-quiet btn-sm py-0" onClick={() => startMapCommand('drop')}>
          Drop to surface <kbd>J</kbd>
        </button>
        {objectClass?.series && <SeriesButtons classId={object.class} />}
      </div>
      {objectClass && objectClass.properties.length > 0 && <h3>Properties</h3>}
      {objectClass?.properties.map((definition) => (
        <PropertyField
          key={definition.id}
          definition={definition as PropertyDefinition}
          value={object.properties[definition.id] ?? definition.default}
          mixed={mixed((o) => o.properties[definition.id] ?? definition.default)}
          onCommit={(value) => setProperty(definition.id, value)}
          onPick={
            definition.type === 'object' && ids.length === 1
              ? () => dispatch(viewChanged({ picking: { property: definition.id, of: definition.of }, tool: 'select' }))
              : undefined
          }
        />
      ))}
      {ids.length === 1 && hasPart(profile, object.class, 'light') && <ReachField object={object} onCommit={(v) => setProperty('intensity', v)} />}
      {ids.length === 1 && hasPart(profile, object.class, 'sun') && <SunFromSky id={id} />}
      {ids.length === 1 && <SignalEditor id={id} map={map} profile={profile} />}
    </>
  );
}

/** A dial beside the number: drag it to turn. */
function TurnField({ value, mixed, onCommit }: { value: number; mixed: boolean; onCommit(turn: number): void }) {
  const at = (event: React.PointerEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const degrees = (Math.atan2(box.top + box.height / 2 - event.clientY, event.clientX - box.left - box.width / 2) * 180) / Math.PI;
    return event.shiftKey ? Math.round(degrees) : Math.round(degrees / 15) * 15;
  };
  const angle = (value * Math.PI) / 180;
  return (
    <div className="d-flex gap-2 align-items-center">
      <div className="flex-grow-1">
        <NumberField label={mixed ? 'Turn (mixed)' : 'Turn'} unit="°" value={value} onCommit={onCommit} />
      </div>
      <svg
        width={28}
        height={28}
        viewBox="-14 -14 28 28"
        role="img"
        aria-label="Dial: drag to turn in steps of 15°, with Shift freely"
        style={{ cursor: 'grab', touchAction: 'none', flex: 'none' }}
        onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
        onPointerUp={(e) => onCommit(at(e))}
      >
        <title>Drag to turn in steps of 15°, with Shift freely</title>
        <circle r={12} fill="none" stroke="currentColor" strokeOpacity={0.5} />
        <line x1={0} y1={0} x2={Math.cos(angle) * 11} y2={-Math.sin(angle) * 11} stroke="var(--vc-warm)" strokeWidth={2.5} />
      </svg>
    </div>
  );
}

/** Intensity as people mean it: how far one can read by it. */
function ReachField({ object, onCommit }: { object: MapObject; onCommit(intensity: number): void }) {
  const { profile } = useDocument();
  const reach = readableReach(Number(object.properties.intensity ?? 0), Number(object.properties.reach ?? 0), profile.unit.metres);
  return (
    <NumberField
      label="Readable to"
      unit={profile.unit.plural}
      value={Math.round(reach)}
      min={1}
      onCommit={(distance) => onCommit(Math.round(intensityForReach(distance, profile.unit.metres) * 100) / 100)}
    />
  );
}

/** Direction and colour of the sun from the brightest spot of a sky picture of the crate or the game. */
function SunFromSky({ id }: { id: string }) {
  const dispatch = useAppDispatch();
  const { map } = useDocument();
  const view = useAppSelector((s) => s.crate.view)!;
  const profileId = useAppSelector((s) => s.crate.profile)!.id;
  const base = useAppSelector((s) => s.crate.base)!;
  const skies = [...view.manifest.materials, ...base.materials].filter((m) => m.type === 'sky' && m.texture);
  const take = async (name: string) => {
    const material = skies.find((m) => m.name === name)!;
    const found = await skyEstimate({ view, profileId }, material.texture!);
    if (!found) return void dispatch(viewChanged({ refusal: 'The sky’s picture could not be read.' }));
    const object = map.objects[id];
    const properties = { ...object.properties, colour: found.colour, height: Math.max(1, Math.round(found.height)) };
    dispatch(edited(changeObject(map, id, { turn: Math.round(found.turn), properties }, 'sun from the sky')));
  };
  if (skies.length === 0) return <div className="faint small">With a sky picture in the crate, the sun’s place and colour can be taken from it.</div>;
  return (
    <Field label="From the sky" id="sun-sky">
      <select id="sun-sky" className="form-select" value="" onChange={(e) => e.target.value && void take(e.target.value)}>
        <option value="">take from …</option>
        {skies.map((m) => (
          <option key={m.name}>{m.name}</option>
        ))}
      </select>
    </Field>
  );
}

function SeriesButtons({ classId }: { classId: string }) {
  const { map, profile } = useDocument();
  const members = seriesOf(map, profile, classId);
  const { gaps, duplicates } = seriesProblems(members);
  return (
    <>
      <button className="btn btn-quiet btn-sm py-0" onClick={() => startMapCommand('series-next')}>
        Add the next <kbd>N</kbd>
      </button>
      <button className="btn btn-quiet btn-sm py-0" onClick={() => startMapCommand('series-renumber')}>
        Renumber
      </button>
      <span className="faint small align-self-center">
        {members.length} in the series
        {gaps.length > 0 && `, missing ${gaps.join(', ')}`}
        {duplicates.length > 0 && `, twice ${duplicates.map((d) => d.ordinal).join(', ')}`}
      </span>
    </>
  );
}

function CopyInspector({ id }: { id: string }) {
  const dispatch = useAppDispatch();
  const { map, profile } = useDocument();
  const copy = map.copies[id];
  const prefab = findPrefab(map, profile, copy.prefab);
  const own = copy.prefab in map.prefabs;
  const change = (part: Partial<Copy>, name: string) => dispatch(edited({ name, changes: [{ of: 'copies', id, to: { ...copy, ...part } }] }));
  const others = Object.entries(map.copies)
    .filter(([other]) => other !== id)
    .map(([, c]) => c.name);
  /** Properties of the prefab's objects that are not parameters yet. */
  const candidates = Object.entries(prefab?.objects ?? {}).flatMap(([object, value]) =>
    (classOf(profile, value.class)?.properties ?? [])
      .filter((p) => !prefab!.parameters.some((known) => known.object === object && known.property === p.id))
      .map((p) => ({ object, property: p.id, label: `${value.name} · ${p.label}` })),
  );
  return (
    <>
      <div className="d-flex align-items-center gap-2">
        <Icon name="boxes" />
        <h2 className="m-0 flex-grow-1">Copy of {prefab?.name ?? 'a missing prefab'}</h2>
        <SelectionButtons />
      </div>
      <TextField
        label="Name"
        mono
        value={copy.name}
        problem={(text) => nameProblem(profile, 'object', text, others)}
        onCommit={(name) => change({ name }, `rename ${copy.name}`)}
      />
      <VectorField label="Position" value={copy.position} onCommit={(position) => change({ position }, `move ${copy.name}`)} />
      <TurnField value={copy.turn} mixed={false} onCommit={(turn) => change({ turn: ((turn % 360) + 360) % 360 }, `turn ${copy.name}`)} />
      {prefab?.parameters.map((parameter) => {
        const object = prefab.objects[parameter.object];
        const definition = object && classOf(profile, object.class)?.properties.find((p) => p.id === parameter.property);
        if (!definition) return null;
        return (
          <PropertyField
            key={parameter.id}
            definition={{ ...definition, label: parameter.label } as PropertyDefinition}
            value={copy.values[parameter.id] ?? object.properties[parameter.property] ?? definition.default}
            onCommit={(value) => change({ values: { ...copy.values, [parameter.id]: value } }, `change ${parameter.label} of ${copy.name}`)}
          />
        );
      })}
      {own && candidates.length > 0 && (
        <Field label="Parameter" id="prefab-parameter">
          <select
            id="prefab-parameter"
            className="form-select"
            value=""
            onChange={(e) => {
              const picked = candidates[Number(e.target.value)];
              if (!picked) return;
              const parameterId = `${picked.object}_${picked.property}`;
              const parameters = [...prefab!.parameters, { id: parameterId, label: picked.label, object: picked.object, property: picked.property }];
              dispatch(
                edited({ name: 'add parameter', changes: [{ of: 'prefabs', id: copy.prefab, to: { ...map.prefabs[copy.prefab], parameters } }] }),
              );
            }}
          >
            <option value="">let copies differ in …</option>
            {candidates.map((c, i) => (
              <option key={`${c.object}/${c.property}`} value={i}>
                {c.label}
              </option>
            ))}
          </select>
        </Field>
      )}
      <div className="d-flex gap-1 mt-2 flex-wrap">
        <button
          className="btn btn-quiet btn-sm"
          disabled={!own}
          title={own ? undefined : 'The game’s own prefabs cannot be changed'}
          onClick={() => startMapCommand('open-prefab')}
        >
          <Icon name="pencil" /> Edit in place <kbd>Enter</kbd>
        </button>
        <button className="btn btn-quiet btn-sm" onClick={() => startMapCommand('independent')}>
          Make independent
        </button>
        <button
          className="btn btn-quiet btn-sm"
          onClick={() => dispatch(viewChanged({ tool: 'place', placeClass: null, placeAsset: null, placePrefab: copy.prefab }))}
        >
          Place another
        </button>
      </div>
      <p className="faint small mt-2">
        {own
          ? `${Object.values(map.copies).filter((c) => c.prefab === copy.prefab).length} copies are linked: a change of the prefab changes all of them. Names inside begin with ${copy.name}_.`
          : 'It comes with the game.'}
      </p>
    </>
  );
}

function PathInspector({ id }: { id: string }) {
  const dispatch = useAppDispatch();
  const { map, profile } = useDocument();
  const path = map.paths[id];
  const change = (part: Partial<typeof path>, name: string) => dispatch(edited({ name, changes: [{ of: 'paths', id, to: { ...path, ...part } }] }));
  const users = Object.entries(map.objects).filter(([, o]) =>
    classOf(profile, o.class)?.properties.some((p) => p.type === 'path' && o.properties[p.id] === id),
  );
  return (
    <>
      <div className="d-flex align-items-center gap-2">
        <Icon name="bezier2" />
        <h2 className="m-0 flex-grow-1">Path</h2>
        <SelectionButtons />
      </div>
      <TextField
        label="Name"
        mono
        value={path.name}
        problem={(text) => nameProblem(profile, 'object', text)}
        onCommit={(name) => change({ name }, `rename ${path.name}`)}
      />
      <CheckField label="Loop" title="The last point leads back to the first" value={path.loop} onCommit={(loop) => change({ loop }, 'loop path')} />
      <div className="faint small mb-1">
        {path.points.length} points, {round(pathLength(path))} {profile.unit.plural} ({round(pathLength(path) * profile.unit.metres)} m). Drag its
        points in the plan.
      </div>
      {path.points.map((point, i) => (
        <div key={i} className="d-flex gap-1 align-items-center">
          <div className="flex-grow-1">
            <VectorField
              label={`Point ${i}`}
              value={point}
              onCommit={(next) => change({ points: path.points.map((p, k) => (k === i ? next : p)) }, 'move path point')}
            />
          </div>
          <button
            className="btn btn-quiet btn-sm py-0"
            aria-label={`Add a point after ${i}`}
            title="Add a point after this one"
            onClick={() => {
              const next = path.points[(i + 1) % path.points.length];
              const middle = point.map((v, k) => (v + next[k]) / 2) as Vec3;
              change({ points: [...path.points.slice(0, i + 1), middle, ...path.points.slice(i + 1)] }, 'add path point');
            }}
          >
            <Icon name="plus-lg" />
          </button>
          <button
            className="btn btn-quiet btn-sm py-0"
            aria-label={`Remove point ${i}`}
            disabled={path.points.length <= 2}
            onClick={() => change({ points: path.points.filter((_, k) => k !== i) }, 'remove path point')}
          >
            <Icon name="x" />
          </button>
        </div>
      ))}
      <h3>Who follows it?</h3>
      {users.length === 0 && <div className="faint small">Nobody yet. Objects pick it in their properties.</div>}
      {users.map(([object, o]) => (
        <button key={object} className="btn btn-link btn-sm p-0 me-2" onClick={() => dispatch(selected({ kind: 'objects', ids: [object] }))}>
          {o.name}
        </button>
      ))}
    </>
  );
}

function MapInspector() {
  const dispatch = useAppDispatch();
  const { map, profile, view } = useDocument();
  const objects = Object.entries(map.objects);
  const settings = (part: Partial<typeof map.settings>, name: string) =>
    dispatch(edited({ name, changes: [{ of: 'settings', to: { ...map.settings, ...part } }] }));
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
        {Object.keys(map.solids).length} solids, {objects.length} objects, {Object.keys(map.signals).length} signals. Select something to see its
        properties.
      </p>
      <div className="d-flex align-items-center">
        <h3 className="flex-grow-1">Bands</h3>
        <button className="btn btn-quiet btn-sm py-0" onClick={addBand}>
          <Icon name="plus-lg" /> Add
        </button>
      </div>
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
      <MapLists />
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

/** So many objects are listed by name when nothing is selected; the outline has all. */
const LISTED = 80;

/** Layers, named sets, camera bookmarks and prefabs of the map. */
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
      <label className="row-field">
        <span>Time of day</span>
        <input
          type="range"
          min={0}
          max={24}
          step={0.25}
          value={view.hour}
          aria-label="Time of day, preview only"
          onChange={(e) => dispatch(viewChanged({ hour: Number(e.target.value), lit: true }))}
        />
      </label>
      <label className="row-field">
        <span>Field of view</span>
        <input
          type="range"
          min={30}
          max={110}
          step={5}
          value={view.fieldOfView}
          aria-label="Field of view in degrees"
          onChange={(e) => dispatch(viewChanged({ fieldOfView: Number(e.target.value) }))}
        />
      </label>
      <label className="row-field">
        <span>Sees to</span>
        <input
          type="range"
          min={256}
          max={32768}
          step={256}
          value={view.far}
          aria-label="Far distance in units"
          onChange={(e) => dispatch(viewChanged({ far: Number(e.target.value) }))}
        />
      </label>
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
