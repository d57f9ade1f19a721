import { useMemo, useState } from 'react';
import { freeName } from '@violet-crate/core/crate/naming';
import { freshId } from '@violet-crate/core/document/edit';
import type { GameMap, Route } from '@violet-crate/core/document/schema';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { PartId } from '@violet-crate/core/part/parts';
import { factOf, hasPart } from '@violet-crate/core/profile/parts';
import type { Profile } from '@violet-crate/core/profile/schema';
import { fly, speedFor, type TakeOff } from '@violet-crate/core/route/flight';
import { beside, ribbonOf } from '@violet-crate/core/route/ribbon';
import { round } from '../../common/format.ts';
import { Icon } from '../../common/Icon.tsx';
import { ChoiceField, NumberField, RangeField, TextField } from '../../common/fields.tsx';
import { edited } from '../../state/mapSlice.ts';
import { useAppDispatch } from '../../state/store.ts';
import { shown, viewChanged } from '../../state/viewSlice.ts';
import { useDocument } from '../editing/useDocument.ts';
import { showGhost } from '../editing/ghost.ts';
import { BranchList } from './BranchList.tsx';
import { jumpsAt } from './routeDraw.ts';
import { RouteProfile } from './RouteProfile.tsx';

/** Metres a second by which riders come slower and faster than stated. */
const SPREAD = 4;

/** Between where slower and faster riders come down; null where one of them does not. */
function reachOf(map: GameMap, takeOff: TakeOff, speed: number, profile: Profile): string | null {
  const { metres } = profile.unit;
  const speeds = [Math.max(1, speed - SPREAD), speed + SPREAD];
  const [near, far] = speeds.map((v) => fly(map, { ...takeOff, speed: v / metres }, profile.player.gravity, metres));
  if (!near.landing || !far.landing) return null;
  return `from ${round(speeds[0])} to ${round(speeds[1])} m/s: ${Math.round(near.distance * metres)} to ${Math.round(far.distance * metres)} m`;
}

/** The way of a race: its stops in order, what it is like along the way, and its jumps. */
export function RoutePanel() {
  const dispatch = useAppDispatch();
  const { map, whole, profile, view } = useDocument();
  const ids = Object.keys(map.routes);
  const [chosen, setChosen] = useState('');
  const id = Object.hasOwn(map.routes, chosen) ? chosen : ids[0];
  const [dragged, setDragged] = useState<number | null>(null);
  const route = id === undefined ? null : map.routes[id];
  const ribbon = useMemo(() => route && ribbonOf(map, route), [map, route]);
  const nameOf = (object: string) => whole.objects[object]?.name ?? object;
  const has = (part: PartId) => (object: string) => hasPart(profile, whole.objects[object].class, part);
  const starts = Object.keys(whole.objects).filter((o) => factOf(profile, whole.objects[o].class, 'start'));
  const goals = Object.keys(whole.objects).filter(has('goal'));
  const gates = Object.keys(whole.objects)
    .filter((o) => profile.classes.some((c) => c.id === whole.objects[o].class && c.series !== undefined) && has('volume')(o))
    .sort((a, b) => ordinal(a) - ordinal(b));
  function ordinal(object: string): number {
    const series = profile.classes.find((c) => c.id === whole.objects[object].class)?.series;
    return Number((series && whole.objects[object].properties[series]) ?? 0);
  }

  const lay = () => {
    const [path] = view.selection.paths;
    const points: Vec3[] = path ? map.paths[path].points : [starts[0], ...gates, goals[0]].map((o) => whole.objects[o].position);
    const to: Route = {
      name: freeName(
        'Race',
        ids.map((one) => map.routes[one].name),
      ),
      start: starts[0],
      stops: gates,
      finish: goals[0],
      laps: 1,
      width: profile.player.radius * 24,
      points,
      branches: [],
    };
    const fresh = freshId(map.routes, 'r');
    dispatch(edited({ name: 'lay route', changes: [{ of: 'routes', id: fresh, to }] }));
    setChosen(fresh);
  };
  const lacks = [starts.length === 0 && 'a start', goals.length === 0 && 'a finish'].filter(Boolean).join(' and ');
  if (!route || !ribbon) {
    return (
      <>
        <h2 className="m-0">No route yet</h2>
        <p className="faint small">
          A route leads from the start past the checkpoints, in order, to the finish. It takes the line of a selected path, or goes straight from one
          to the next.
        </p>
        {lacks && <p className="text-warm small">Place {lacks} first.</p>}
        <button className="btn btn-primary btn-sm" disabled={lacks !== ''} onClick={lay}>
          Lay a route
        </button>
      </>
    );
  }

  const change = (name: string, part: Partial<Route>) => dispatch(edited({ name, changes: [{ of: 'routes', id, to: { ...route, ...part } }] }));
  const move = (from: number, to: number) => {
    if (to < 0 || to >= route.stops.length || from === to) return;
    const stops = [...route.stops];
    stops.splice(to, 0, ...stops.splice(from, 1));
    change('reorder checkpoints', { stops });
  };
  const show = (point: Vec3) => dispatch(shown({ point, frame: route.width * 8 }));
  const gravity = profile.player.gravity;
  const m = profile.unit.metres;
  const unused = gates.filter((gate) => !route.stops.includes(gate));
  return (
    <>
      <div className="d-flex align-items-center gap-1">
        <h2 className="m-0 flex-grow-1">Route</h2>
        <button className="btn btn-quiet btn-sm" onClick={() => dispatch(viewChanged({ sheet: 'zones' }))}>
          <Icon name="signpost-split" /> Zones
        </button>
        <button className="btn btn-quiet btn-sm" onClick={() => dispatch(viewChanged({ sheet: 'picture' }))}>
          <Icon name="map" /> Picture
        </button>
      </div>
      {ids.length > 1 && (
        <ChoiceField label="Which" value={id} choices={ids.map((one) => [one, map.routes[one].name])} onCommit={(next) => setChosen(next)} />
      )}
      <TextField label="Name" value={route.name} onCommit={(name) => change('rename route', { name: name.slice(0, 60) })} />
      <NumberField label="Laps" value={route.laps} min={1} max={99} onCommit={(laps) => change('laps', { laps: Math.round(laps) })} />
      <NumberField
        label="Width"
        unit={profile.unit.plural}
        value={route.width}
        min={profile.grid.min}
        max={1000}
        onCommit={(width) => change('width of the route', { width })}
      />
      <p className="small mb-1">
        {Math.round(ribbon.length * m)} m, climbs {Math.round(ribbon.climb * m)} m, falls {Math.round(ribbon.descent * m)} m.
      </p>
      <RouteProfile
        ribbon={ribbon}
        metres={m}
        onHover={(at) => showGhost(at ? { solids: [], lines: [[at, [at[0], at[1], at[2] + route.width]]] } : null)}
        onPick={show}
      />
      <h3>Checkpoints</h3>
      <ol className="stops">
        <li>
          <button className="btn btn-quiet btn-sm" onClick={() => whole.objects[route.start] && show(whole.objects[route.start].position)}>
            {nameOf(route.start)}
          </button>
        </li>
        {route.stops.map((stop, n) => {
          const object = whole.objects[stop];
          const off = object ? beside(ribbon, object.position) : null;
          return (
            <li
              key={stop}
              draggable
              onDragStart={() => setDragged(n)}
              onDragOver={(e) => dragged !== null && e.preventDefault()}
              onDrop={() => {
                if (dragged !== null) move(dragged, n);
                setDragged(null);
              }}
            >
              <button
                className="btn btn-quiet btn-sm flex-grow-1 text-start"
                onClick={() => object && show(object.position)}
                title="Show it; drag to reorder"
              >
                {n + 1} {nameOf(stop)} <span className="faint">{off ? `${Math.round(off.along * m)} m` : 'missing'}</span>
              </button>
              <button className="btn btn-quiet btn-sm" aria-label={`${nameOf(stop)} earlier`} disabled={n === 0} onClick={() => move(n, n - 1)}>
                <Icon name="arrow-up" />
              </button>
              <button
                className="btn btn-quiet btn-sm"
                aria-label={`${nameOf(stop)} later`}
                disabled={n === route.stops.length - 1}
                onClick={() => move(n, n + 1)}
              >
                <Icon name="arrow-down" />
              </button>
              <button
                className="btn btn-quiet btn-sm"
                aria-label={`Take ${nameOf(stop)} out of the route`}
                onClick={() => change('take out checkpoint', { stops: route.stops.filter((one) => one !== stop) })}
              >
                <Icon name="x" />
              </button>
            </li>
          );
        })}
        <li>
          <button className="btn btn-quiet btn-sm" onClick={() => whole.objects[route.finish] && show(whole.objects[route.finish].position)}>
            {nameOf(route.finish)}
          </button>
        </li>
      </ol>
      {unused.length > 0 && (
        <select
          className="form-select mb-1"
          aria-label="Add a checkpoint"
          value=""
          onChange={(e) => change('add checkpoint', { stops: [...route.stops, e.target.value] })}
        >
          <option value="">Add a checkpoint …</option>
          {unused.map((gate) => (
            <option key={gate} value={gate}>
              {nameOf(gate)}
            </option>
          ))}
        </select>
      )}
      <div className="d-flex flex-wrap gap-1 mb-2">
        <button
          className="btn btn-quiet btn-sm"
          title="In the order in which the ribbon passes them"
          onClick={() =>
            change('order checkpoints', {
              stops: [...route.stops].sort((a, b) => along(a) - along(b)),
            })
          }
        >
          <Icon name="sort-numeric-down" /> By the ribbon
        </button>
        <button
          className="btn btn-quiet btn-sm"
          disabled={view.selection.paths.length === 0}
          title={view.selection.paths.length === 0 ? 'Select a path first' : 'The ribbon takes the line of the selected path'}
          onClick={() => change('line of the route', { points: map.paths[view.selection.paths[0]].points })}
        >
          <Icon name="bezier2" /> Along the path
        </button>
        <button
          className="btn btn-quiet btn-sm"
          onClick={() => dispatch(edited({ name: 'remove route', changes: [{ of: 'routes', id, to: null }] }))}
        >
          <Icon name="trash" /> Remove
        </button>
        <button className="btn btn-quiet btn-sm" disabled={lacks !== ''} title="Another race over the same ground" onClick={lay}>
          <Icon name="plus-lg" /> Another route
        </button>
      </div>
      <BranchList
        route={route}
        objects={whole.objects}
        unused={unused}
        path={view.selection.paths.length > 0 ? map.paths[view.selection.paths[0]].points : null}
        onChange={(name, branches) => change(name.slice(0, 120), { branches })}
      />
      <h3>Jumps</h3>
      <p className="faint small mb-1">Drag a landing in the plan or the section to see the speed that it needs.</p>
      <RangeField
        label={`At ${view.jumpSpeed} m/s`}
        hint="Speed at the take-off"
        value={view.jumpSpeed}
        min={4}
        max={40}
        step={1}
        onChange={(jumpSpeed) => dispatch(viewChanged({ jumpSpeed }))}
      />
      {jumpsAt(map, profile, ribbon, view.jumpSpeed).map(({ along: at, flight, takeOff }) => {
        const landing = flight.landing;
        const spread = reachOf(map, takeOff, view.jumpSpeed, profile);
        const needs = landing && speedFor(takeOff.pitch, flight.distance, takeOff.at[2] - landing[2], gravity);
        return (
          <button key={at} className="btn btn-quiet btn-sm w-100 text-start mb-1 jump" onClick={() => show(takeOff.at)}>
            <b>{Math.round(at * m)} m</b>: {round(flight.seconds)} s, {Math.round(flight.distance * m)} m far, {round(flight.height * m)} m high
            {spread && (
              <>
                <br />
                <span className="faint">{spread}</span>
              </>
            )}
            <br />
            {landing ? (
              <span className={flight.angle > 25 ? 'text-warm' : 'faint'}>
                comes down at {Math.round(flight.angle)}° and {round(flight.g)} g{needs ? `; this landing needs ${round(needs * m)} m/s` : ''}
              </span>
            ) : (
              <span className="text-warm">leads beyond the ground</span>
            )}
          </button>
        );
      })}
    </>
  );

  function along(stop: string): number {
    const object = whole.objects[stop];
    return object ? beside(ribbon!, object.position).along : Infinity;
  }
}
