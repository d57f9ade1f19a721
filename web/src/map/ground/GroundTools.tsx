import { useState } from 'react';
import type { Change } from '@violet-crate/core/document/edit';
import type { Terrain } from '@violet-crate/core/document/schema';
import { membersBox } from '@violet-crate/core/map/member/members';
import { groundOf } from '@violet-crate/core/terrain/ground';
import { levelPlace, road } from '@violet-crate/core/terrain/reshape';
import { smoothLine } from '@violet-crate/core/math/smoothLine';
import { Icon } from '../../common/Icon.tsx';
import { CheckField, ChoiceField, NumberField } from '../../common/fields.tsx';
import { edited } from '../../state/mapSlice.ts';
import { useAppDispatch } from '../../state/store.ts';
import { isEmpty } from '../../state/viewSlice.ts';
import { useDocument } from '../editing/useDocument.ts';
import { GroundFiles } from './GroundFiles.tsx';
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
    // The path knows that a road was laid along it: maps show it, checks look at its slope.
    const laid: Change = { of: 'paths', id: path, to: { ...map.paths[path], road: width } };
    if (changes.length > 0) dispatch(edited({ name: `road along ${map.paths[path].name}`.slice(0, 120), changes: [...changes, laid] }));
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
      <GroundFiles id={id} terrain={terrain} busy={progress !== null} run={run} />
      <Said said={said} />
    </>
  );
}
