import { useState } from 'react';
import type { Terrain } from '@violet-crate/core/document/schema';
import { membersBox } from '@violet-crate/core/map/member/members';
import { heightFormat, writePngHeights, writeRawHeights, writeTiffHeights } from '@violet-crate/core/terrain/file/heights';
import { groundOf } from '@violet-crate/core/terrain/ground';
import { levelPlace, road } from '@violet-crate/core/terrain/reshape';
import { smoothLine } from '@violet-crate/core/math/smoothLine';
import { Icon } from '../../common/Icon.tsx';
import { CheckField, ChoiceField, NumberField } from '../../common/fields.tsx';
import { edited } from '../../state/mapSlice.ts';
import { useAppDispatch } from '../../state/store.ts';
import { isEmpty } from '../../state/viewSlice.ts';
import { useDocument } from '../editing/useDocument.ts';
import { Running, Said } from './GroundRules.tsx';
import { useGroundWork } from './useGroundWork.ts';

interface Props {
  id: string;
  terrain: Terrain;
}

/** What is done to the ground at once: weathering, roads, level places, files. */
export function GroundTools({ id, terrain }: Props) {
  const dispatch = useAppDispatch();
  const { map, profile, view } = useDocument();
  const { run, stop, progress, said } = useGroundWork();
  const [kind, setKind] = useState<'thermal' | 'hydraulic'>('hydraulic');
  const [steps, setSteps] = useState(60);
  const [rest, setRest] = useState(32);
  const [width, setWidth] = useState(() => Math.round(profile.player.radius * 12));
  const [shoulder, setShoulder] = useState(() => Math.round(profile.player.radius * 20));
  const [camber, setCamber] = useState(0);
  const [balance, setBalance] = useState(true);
  const [fade, setFade] = useState(8);
  const [told, setTold] = useState<{ text: string; trouble: boolean } | null>(null);
  const [path] = view.selection.paths;
  const ground = groundOf(map, id)!;
  const volumes = (cut: number, filled: number) => {
    const cubic = (v: number) => `${Math.round(v * profile.unit.metres ** 3).toLocaleString('en')} m³`;
    return `${cubic(cut)} cut, ${cubic(filled)} filled`;
  };

  const layRoad = () => {
    const line = smoothLine(map.paths[path].points, map.paths[path].loop, terrain.spacing);
    const { changes, moved, raised } = road(ground, line, { width, shoulder, camber, balance });
    if (changes.length > 0) dispatch(edited({ name: `road along ${map.paths[path].name}`.slice(0, 120), changes }));
    const lift = balance && raised !== 0 ? `, ${raised > 0 ? 'raised' : 'lowered'} by ${Math.abs(raised).toFixed(2)}` : '';
    setTold({
      text: changes.length > 0 ? `Road laid: ${volumes(moved.cut, moved.filled)}${lift}.` : 'The road lies beside the ground, or on it already.',
      trouble: false,
    });
  };
  const level = () => {
    const box = membersBox(map, profile, view.selection);
    if (!box) return;
    const { changes, moved } = levelPlace(ground, box, box.min[2], fade);
    if (changes.length > 0) dispatch(edited({ name: 'level a place', changes }));
    setTold({
      text: changes.length > 0 ? `Levelled: ${volumes(moved.cut, moved.filled)}.` : 'It is level there already, or there is no ground.',
      trouble: false,
    });
  };

  return (
    <>
      <h3>Weather all of it</h3>
      <ChoiceField
        label="How"
        value={kind}
        choices={[
          ['hydraulic', 'Rain'],
          ['thermal', 'Sliding'],
        ]}
        onCommit={(v) => setKind(v as typeof kind)}
      />
      <NumberField label="Steps" value={steps} min={1} max={2000} onCommit={(v) => setSteps(Math.round(v))} />
      {kind === 'thermal' && <NumberField label="Angle of rest" value={rest} min={1} max={89} onCommit={setRest} />}
      {progress === null ? (
        <button className="btn btn-quiet btn-sm" onClick={() => run(id, { kind: 'weather', how: { kind, steps, strength: 0.8, rest } })}>
          <Icon name="cloud-rain" /> Weather it
        </button>
      ) : (
        <Running progress={progress} onStop={stop} />
      )}
      <h3>Road along a path</h3>
      <NumberField label="Width" value={width} min={0.1} max={1000} onCommit={setWidth} />
      <NumberField label="Shoulder" value={shoulder} min={0} max={1000} onCommit={setShoulder} />
      <NumberField label="Camber" value={camber} min={0} max={1} onCommit={setCamber} />
      <CheckField label="Balance" title="Raises or lowers it until as much is filled as is cut" value={balance} onCommit={setBalance} />
      <button className="btn btn-quiet btn-sm" disabled={!path} title={path ? '' : 'Select a path first'} onClick={layRoad}>
        <Icon name="sign-turn-slight-right" /> Lay the road
      </button>
      <h3>Level a place</h3>
      <NumberField label="Fades over" value={fade} min={0} max={1000} onCommit={setFade} />
      <button
        className="btn btn-quiet btn-sm"
        disabled={isEmpty(view.selection)}
        title={isEmpty(view.selection) ? 'Select what shall stand there first' : ''}
        onClick={level}
      >
        <Icon name="align-bottom" /> Level under what is selected
      </button>
      <Said said={told} />
      <HeightFiles id={id} terrain={terrain} busy={progress !== null} run={run} />
      <Said said={said} />
    </>
  );
}

type Run = ReturnType<typeof useGroundWork>['run'];

/** Heights of a file come in, and go out. */
function HeightFiles({ id, terrain, busy, run }: Props & { busy: boolean; run: Run }) {
  const { map } = useDocument();
  const [file, setFile] = useState<File | null>(null);
  const [low, setLow] = useState(terrain.range[0]);
  const [high, setHigh] = useState(terrain.range[1]);
  const [width, setWidth] = useState(0);
  const [depth, setDepth] = useState('');
  const format = file && heightFormat(file.name);

  const bringIn = async () => {
    const bytes = new Uint8Array(await file!.arrayBuffer());
    const raw = { ...(width > 0 ? { width } : {}), ...(depth ? { depth: depth as 'u16' | 'f32' } : {}) };
    run(id, { kind: 'heights', file: file!.name, bytes, range: high > low ? [low, high] : null, raw });
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
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([bytes.slice().buffer]));
    link.download = `${terrain.name.replace(/[^a-z0-9_]+/gi, '_')}.${as}`;
    link.click();
    URL.revokeObjectURL(link.href);
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
          <p className="faint small mb-1">The ground takes the file’s number of samples, {terrain.spacing} apart. It can be undone.</p>
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
