import type { GameMap, Route } from '@violet-crate/core/document/schema';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { AddHeading } from '../../common/AddHeading.tsx';
import { ChoiceField, TextField } from '../../common/fields.tsx';
import { Icon } from '../../common/Icon.tsx';

type Branch = Route['branches'][number];

interface Props {
  route: Route;
  objects: GameMap['objects'];
  /** Checkpoints that the route does not pass. */
  unused: readonly string[];
  /** Points of the selected path. */
  path: readonly Vec3[] | null;
  onChange(name: string, branches: Branch[]): void;
}

/** Ways that leave the route and join it again: either is a fair one. */
export function BranchList({ route, objects, unused, path, onChange }: Props) {
  const nameOf = (id: string) => objects[id]?.name ?? id;
  const all = [route.start, ...route.stops, route.finish];
  const free = unused.filter((gate) => !route.branches.some(({ stops }) => stops.includes(gate)));
  /** Straight from where it leaves past its checkpoints to where it joins. */
  const laid = (branch: Omit<Branch, 'points'>): Branch => ({
    ...branch,
    points: [all[branch.after], ...branch.stops, all[branch.until]].flatMap((id) => (objects[id] ? [objects[id].position] : [])),
  });
  const put = (n: number, next: Branch) =>
    onChange(
      `change the branch ${next.name}`,
      route.branches.map((one, k) => (k === n ? next : one)),
    );
  const add = () =>
    onChange('add a branch', [...route.branches, laid({ name: `Branch ${route.branches.length + 1}`, after: 0, until: 1, stops: [free[0]] })]);
  return (
    <>
      <AddHeading
        title="Branches"
        disabled={free.length === 0}
        hint={free.length === 0 ? 'Place another checkpoint first, or take one out of the route' : 'Another way, past a checkpoint of its own'}
        onAdd={add}
      />
      {route.branches.map((branch, n) => (
        <details key={n} className="ground-row" open={route.branches.length === 1}>
          <summary>
            {branch.name} <span className="faint">past {branch.stops.map(nameOf).join(', ') || 'nothing'}</span>
          </summary>
          <TextField label="Name" value={branch.name} onCommit={(name) => put(n, { ...branch, name: name.slice(0, 60) })} />
          <ChoiceField
            label="Leaves after"
            value={String(branch.after)}
            choices={all.slice(0, -1).map((id, k) => [String(k), nameOf(id)])}
            onCommit={(v) => put(n, laid({ ...branch, after: Number(v), until: Math.max(branch.until, Number(v) + 1) }))}
          />
          <ChoiceField
            label="Joins at"
            value={String(branch.until)}
            choices={all.flatMap((id, k): [string, string][] => (k > branch.after ? [[String(k), nameOf(id)]] : []))}
            onCommit={(v) => put(n, laid({ ...branch, until: Number(v) }))}
          />
          <ul className="stops">
            {branch.stops.map((stop) => (
              <li key={stop}>
                <span className="flex-grow-1">{nameOf(stop)}</span>
                <button
                  className="btn btn-quiet btn-sm py-0"
                  aria-label={`Take ${nameOf(stop)} out of ${branch.name}`}
                  onClick={() => put(n, laid({ ...branch, stops: branch.stops.filter((one) => one !== stop) }))}
                >
                  <Icon name="x" />
                </button>
              </li>
            ))}
          </ul>
          {free.length > 0 && (
            <select
              className="form-select mb-1"
              aria-label={`Add a checkpoint to ${branch.name}`}
              value=""
              onChange={(e) => put(n, laid({ ...branch, stops: [...branch.stops, e.target.value] }))}
            >
              <option value="">Add a checkpoint …</option>
              {free.map((gate) => (
                <option key={gate} value={gate}>
                  {nameOf(gate)}
                </option>
              ))}
            </select>
          )}
          <div className="d-flex gap-1">
            <button
              className="btn btn-quiet btn-sm"
              disabled={!path}
              title={path ? 'Its line is that of the selected path' : 'Select a path first'}
              onClick={() => path && put(n, { ...branch, points: [...path] })}
            >
              <Icon name="bezier2" /> Along the path
            </button>
            <button
              className="btn btn-quiet btn-sm"
              onClick={() =>
                onChange(
                  `remove the branch ${branch.name}`,
                  route.branches.filter((_, k) => k !== n),
                )
              }
            >
              <Icon name="trash" /> Remove
            </button>
          </div>
        </details>
      ))}
    </>
  );
}
