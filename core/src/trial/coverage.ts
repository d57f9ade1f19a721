/** What a run comes by: objects, signals, volumes, lines, places. Over several runs it adds up; what never happened is told. */

import type { GameMap } from '../document/schema.ts';
import type { Finding } from '../finding.ts';
import type { Vec3 } from '../math/vec3.ts';
import { partsOf } from '../profile/parts.ts';
import type { Profile } from '../profile/schema.ts';
import { readScript } from '../script/check.ts';
import { areasOf, type Navmesh } from '../stages/navigation/navmesh.ts';
import type { Ran } from '../script/run.ts';

/** Plain, so that it can be sent and kept. */
export interface CoverageData {
  /** Times that objects were operated and volumes entered, and that signals were sent, by their ids. */
  used: Record<string, number>;
  entered: Record<string, number>;
  sent: Record<string, number>;
  lines: Ran[];
  calls: Ran[];
  /** Seconds that players spent in cells of the ground: x, y, z of the cell's middle, in units. */
  time: [number, number, number, number][];
  /** Side of such a cell. */
  cell: number;
  falls: Vec3[];
  deaths: Vec3[];
  /** Steps of conversations that were come by: `NAME step`; not in those of before there were any. */
  said?: Record<string, number>;
}

/** Falls and deaths whose places are kept. */
const PLACES = 1000;

export class Coverage {
  private readonly used = new Map<string, number>();
  private readonly entered = new Map<string, number>();
  private readonly sent = new Map<string, number>();
  private readonly said = new Map<string, number>();
  private readonly lines = new Map<string, Ran>();
  private readonly calls = new Map<string, Ran>();
  private readonly time = new Map<string, [number, number, number, number]>();
  private readonly lost = { falls: [] as Vec3[], deaths: [] as Vec3[] };

  /** @param cell side of the cells in which time is counted, in units */
  constructor(readonly cell: number) {}

  use = (id: string): void => count(this.used, id);
  enter = (id: string): void => count(this.entered, id);
  send = (id: string): void => count(this.sent, id);
  speak = (talk: string, step: number): void => count(this.said, `${talk} ${step}`);

  stay([x, y, z]: Vec3, seconds: number): void {
    const at = [x, y, z].map((v) => Math.floor(v / this.cell)) as Vec3;
    const key = at.join('/');
    const known = this.time.get(key);
    if (known) known[3] += seconds;
    else this.time.set(key, [...(at.map((v) => (v + 0.5) * this.cell) as Vec3), seconds]);
  }

  lose(how: 'falls' | 'deaths', at: Vec3): void {
    if (this.lost[how].length < PLACES) this.lost[how].push([...at]);
  }

  ran({ lines, calls }: { lines: readonly Ran[]; calls: readonly Ran[] }): void {
    for (const [into, rows] of [
      [this.lines, lines],
      [this.calls, calls],
    ] as const)
      for (const row of rows) {
        const key = `${row.file}:${row.line}`;
        const known = into.get(key);
        if (known) Object.assign(known, { count: known.count + row.count, seconds: known.seconds + row.seconds });
        else into.set(key, { ...row });
      }
  }

  /** Adds what another run came by. */
  add(data: CoverageData): void {
    for (const [into, from] of [
      [this.used, data.used],
      [this.entered, data.entered],
      [this.sent, data.sent],
      [this.said, data.said ?? {}],
    ] as const)
      for (const [id, times] of Object.entries(from)) count(into, id, times);
    this.ran(data);
    for (const [x, y, z, seconds] of data.time) this.stay([x, y, z], seconds);
    for (const how of ['falls', 'deaths'] as const) for (const at of data[how]) this.lose(how, at);
  }

  data(): CoverageData {
    const byPlace = (a: Ran, b: Ran) => (a.file < b.file ? -1 : a.file > b.file ? 1 : a.line - b.line);
    return {
      used: Object.fromEntries(this.used),
      entered: Object.fromEntries(this.entered),
      sent: Object.fromEntries(this.sent),
      said: Object.fromEntries(this.said),
      lines: [...this.lines.values()].sort(byPlace),
      calls: [...this.calls.values()].sort(byPlace),
      time: [...this.time.values()].map(([x, y, z, seconds]) => [x, y, z, Math.round(seconds * 1000) / 1000]),
      cell: this.cell,
      ...this.lost,
    };
  }
}

function count(into: Map<string, number>, id: string, times = 1): void {
  into.set(id, (into.get(id) ?? 0) + times);
}

/** The side of cells in which the time of a game's players is counted. */
export const coverageCell = (profile: Profile): number => profile.player.radius * 2;

/** Lines of a script whose statements can run, and those that did: functions count by what is in them. */
export function linesCovered(path: string, source: string, lines: readonly Ran[]): { able: number[]; ran: Map<number, number> } {
  const { outline } = readScript(path, source);
  const hits = new Map(lines.flatMap(({ file, line, count: times }) => (file === path ? [[line, times] as const] : [])));
  const ran = new Map<number, number>();
  const able = new Set<number>();
  for (const { line, last } of outline?.statements ?? []) {
    able.add(line);
    for (let at = line; at <= last; at++) if (hits.has(at)) ran.set(line, Math.max(ran.get(line) ?? 0, hits.get(at)!));
  }
  return { able: [...able].sort((a, b) => a - b), ran };
}

/** What never happened in any of the runs, each with its place. */
export function coverageFindings(
  profile: Profile,
  name: string,
  map: Pick<GameMap, 'objects' | 'signals'>,
  scripts: Readonly<Record<string, string>>,
  data: CoverageData,
): Finding[] {
  const findings: Finding[] = [];
  const note = (code: string, message: string, hint: string, place: Finding['place']) =>
    findings.push({ code, severity: 'note', stage: 'trial', message, hint, place });
  const heard = new Set(Object.values(map.signals).map((signal) => signal.from));
  for (const [id, object] of Object.entries(map.objects)) {
    const objectives = partsOf(profile, object.class).flatMap((part) => part.objective ?? []);
    const place = { map: name, object: id, point: object.position };
    if (objectives.includes('operate') && !Object.hasOwn(data.used, id))
      note('never-used', `${object.name} was never operated.`, 'Operate it in a walk, or take it away.', place);
    else if (!objectives.includes('operate') && objectives.includes('enter') && heard.has(id) && !Object.hasOwn(data.entered, id))
      note('never-entered', `Nobody ever entered ${object.name}.`, 'Record a walk that leads through it.', place);
  }
  for (const [id, signal] of Object.entries(map.signals)) {
    if (Object.hasOwn(data.sent, id)) continue;
    const from = map.objects[signal.from];
    const to = 'script' in signal.to ? `${signal.to.script}()` : `${map.objects[signal.to.object]?.name}.${signal.to.action}`;
    note('never-sent', `The signal ${from?.name}.${signal.event} → ${to} was never sent.`, 'Record a walk in which it happens.', {
      map: name,
      object: signal.from,
      signal: id,
    });
  }
  const called = new Set(data.calls.map(({ file, line }) => `${file}:${line}`));
  for (const [path, source] of Object.entries(scripts))
    for (const { name: own, line } of readScript(path, source).outline?.functions ?? [])
      if (own !== null && !called.has(`${path}:${line}`))
        note('never-called', `The function ${own} never ran.`, 'Record a walk in which it is called.', { file: path, line });
  return findings;
}

type Ground = Pick<Navmesh, 'vertices' | 'polygons'>;

/** Floors that are smaller than so many cells of time are ledges that nobody misses. */
const LEDGE = 12;

/** Square units of every polygon of a navmesh, and of those on which somebody ever was. */
function floorsOf({ vertices, polygons }: Ground, { time, cell }: CoverageData): { middle: Vec3; size: number; walked: boolean }[] {
  // Cells by column, so that each polygon looks only at those below its own box.
  const columns = new Map<string, number[]>();
  for (const [x, y, z] of time) {
    const key = `${Math.floor(x / cell)}/${Math.floor(y / cell)}`;
    columns.set(key, [...(columns.get(key) ?? []), z]);
  }
  return polygons.map(({ corners }) => {
    const points = corners.map((corner) => vertices[corner]);
    const twice = points.reduce((sum, p, i) => sum + p[0] * points[(i + 1) % points.length][1] - points[(i + 1) % points.length][0] * p[1], 0);
    const [low, high] = [0, 1, 2]
      .map((k) => points.map((p) => p[k]))
      .map((list) => [Math.min(...list), Math.max(...list)] as const)
      .reduce<[number[], number[]]>(
        ([a, b], [min, max]) => [
          [...a, min],
          [...b, max],
        ],
        [[], []],
      );
    let walked = false;
    for (let x = Math.floor(low[0] / cell); x <= Math.floor(high[0] / cell) && !walked; x++)
      for (let y = Math.floor(low[1] / cell); y <= Math.floor(high[1] / cell) && !walked; y++)
        walked = (columns.get(`${x}/${y}`) ?? []).some((z) => z > low[2] - cell * 1.5 && z < high[2] + cell * 1.5);
    const middle = [0, 1, 2].map((k) => points.reduce((sum, p) => sum + p[k], 0) / points.length) as Vec3;
    return { middle, size: Math.abs(twice) / 2, walked };
  });
}

/** How much of the walkable floor somebody ever was on, in square units: what was, and all. */
export function floorWalked(ground: Ground, data: CoverageData): [number, number] {
  const floors = floorsOf(ground, data);
  const sum = (list: typeof floors) => Math.round(list.reduce((total, { size }) => total + size, 0));
  return [sum(floors.filter(({ walked }) => walked)), sum(floors)];
}

/** Connected floors on which nobody ever was. */
export function floorFindings(map: string, ground: Ground, data: CoverageData): Finding[] {
  const areas = areasOf(ground.polygons);
  const byArea = new Map<number, { middle: Vec3; size: number; most: number; walked: boolean }>();
  floorsOf(ground, data).forEach(({ middle, size, walked }, i) => {
    const known = byArea.get(areas[i]) ?? { middle, size: 0, most: 0, walked: false };
    const larger = size > known.most;
    byArea.set(areas[i], {
      middle: larger ? middle : known.middle,
      size: known.size + size,
      most: Math.max(known.most, size),
      walked: known.walked || walked,
    });
  });
  return [...byArea.values()].flatMap(({ middle, size, walked }): Finding[] =>
    walked || size < LEDGE * data.cell ** 2
      ? []
      : [
          {
            code: 'never-walked',
            severity: 'note',
            stage: 'trial',
            message: `Nobody ever walked the floor about ${middle.map((v) => Math.round(v)).join(', ')}.`,
            hint: 'Record a walk that leads there, if it is meant to be walked on.',
            place: { map, point: middle },
          },
        ],
  );
}

/** How much of what can happen did, each as a pair of what did and all. */
export interface CoverageSummary {
  objects: [number, number];
  signals: [number, number];
  volumes: [number, number];
  functions: [number, number];
  lines: [number, number];
}

export function coverageSummary(
  profile: Profile,
  map: Pick<GameMap, 'objects' | 'signals'>,
  scripts: Readonly<Record<string, string>>,
  data: CoverageData,
): CoverageSummary {
  const usable: string[] = [];
  const volumes: string[] = [];
  for (const [id, object] of Object.entries(map.objects)) {
    const objectives = partsOf(profile, object.class).flatMap((part) => part.objective ?? []);
    if (objectives.includes('operate')) usable.push(id);
    else if (objectives.includes('enter')) volumes.push(id);
  }
  const share = (all: readonly string[], did: Record<string, number>): [number, number] => [
    all.filter((id) => Object.hasOwn(did, id)).length,
    all.length,
  ];
  const called = new Set(data.calls.map(({ file, line }) => `${file}:${line}`));
  const functions: [number, number] = [0, 0];
  const lines: [number, number] = [0, 0];
  for (const [path, source] of Object.entries(scripts)) {
    for (const f of readScript(path, source).outline?.functions ?? []) {
      if (f.name === null) continue;
      functions[1]++;
      if (called.has(`${path}:${f.line}`)) functions[0]++;
    }
    const { able, ran } = linesCovered(path, source, data.lines);
    lines[0] += ran.size;
    lines[1] += able.length;
  }
  return {
    objects: share(usable, data.used),
    signals: share(Object.keys(map.signals), data.sent),
    volumes: share(volumes, data.entered),
    functions,
    lines,
  };
}
