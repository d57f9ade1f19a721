/** Every finding of a crate that needs no build: scripts, maps, links, names. */

import { sortFindings, type Finding } from '../finding.ts';
import { checkLinks } from '../link/findings.ts';
import { LinkGraph } from '../link/graph.ts';
import { reportOf, type LinkReport } from '../link/report.ts';
import { talksOf } from '../talk/talks.ts';
import { checkRecords } from './checkRecords.ts';
import { checkTalk } from './checkTalk.ts';
import { checkEffects } from './checkEffects.ts';
import { checkMap } from './checkMap.ts';
import { checkPrefabs, copyOf, expandMap, expandWorld } from '../map/prefab.ts';
import { scriptAdvice } from '../script/advice.ts';
import { checkScripts, globalFunctions } from '../script/check.ts';
import { classOf } from '../profile/schema.ts';
import { isWorkingFile } from '../crate/contents.ts';
import { nameProblem } from '../crate/naming.ts';
import type { CrateWorld } from '../crate/world.ts';
import type { Copy, GameMap } from '../document/schema.ts';
import { canonicalJson } from '../hash.ts';
import type { Vec3 } from '../math/vec3.ts';
import { own } from '../own.ts';
import { misnamedFile, pathTrouble } from '../crate/portableName.ts';

export interface CrateCheck {
  findings: Finding[];
  links: LinkReport[];
}

/** @param graph kept by who checks again and again; brought up to the crate here */
export function checkCrate(given: CrateWorld, graph = new LinkGraph(given)): CrateCheck {
  // Copies of prefabs are checked as what they stand for.
  const world = expandWorld(given);
  const { profile, crate } = world;
  const findings: Finding[] = [];
  const nameWrong = nameProblem(profile, 'crate', crate.manifest.name);
  if (nameWrong)
    findings.push({
      code: 'crate-name',
      severity: 'blocker',
      stage: 'setup',
      message: `Crate name "${crate.manifest.name}": ${nameWrong}`,
      place: { file: 'crate.json' },
    });
  if (!own(crate.maps, crate.manifest.mainMap)) {
    findings.push({
      code: 'map-missing',
      severity: 'blocker',
      stage: 'map',
      message: `The crate has no map ${crate.manifest.mainMap}.`,
      hint: 'It is named in crate.json as mainMap.',
      place: { file: 'crate.json' },
    });
  }
  for (const path of [...crate.files.map((file) => file.path), ...Object.keys(crate.scripts), ...Object.keys(crate.data)]) {
    const trouble = pathTrouble(path);
    if (trouble) findings.push(misnamedFile(path, trouble, 'assets'));
  }
  for (const file of crate.files) {
    const stem = file.path
      .split('/')
      .pop()!
      .replace(/\.[a-z0-9]+$/i, '');
    const problem = isWorkingFile(file.path) ? null : nameProblem(profile, 'file', stem);
    if (problem)
      findings.push({
        code: 'file-name',
        severity: 'blocker',
        stage: 'assets',
        message: `File ${file.path}: ${problem}`,
        place: { file: file.path },
      });
  }
  const shared = Object.fromEntries(Object.entries(crate.scripts).filter(([path]) => !scriptsOfObjects(world).has(path)));
  const functions = globalFunctions(shared);
  const called = new Set(
    Object.values(crate.maps).flatMap((map) => [
      ...Object.values(map.signals).flatMap((signal) => ('script' in signal.to ? [signal.to.script] : [])),
      ...Object.values(map.objects).flatMap((object) =>
        (classOf(profile, object.class)?.properties ?? []).filter((p) => p.type === 'script').map((p) => String(object.properties[p.id] ?? '')),
      ),
    ]),
  );
  const { talks } = talksOf(crate.data);
  for (const { talk } of talks) for (const step of talk.steps) if (step.do === 'call') called.add(step.function);
  const ofObjects = scriptsOfObjects(world);
  findings.push(...checkScripts(profile, crate.scripts, called, ofObjects));
  const objects = new Set(Object.values(crate.maps).flatMap((map) => Object.values(map.objects).map(({ name }) => name)));
  findings.push(...scriptAdvice({ profile, scripts: crate.scripts, objects, ofObjects: new Set(ofObjects.keys()) }));
  findings.push(...checkRecords(world, talks), ...checkTalk(world), ...checkEffects(world));
  const names = Object.keys(crate.maps);
  for (const name of names) findings.push(...checkMap(world, name, new Set(functions)), ...checkPrefabs(given, name));
  graph.update(given);
  const links = names.map((name) => reportOf(graph, given, name));
  findings.push(...checkLinks(given, graph, links));
  return { findings: sortFindings(findings.map((finding) => ofCopy(given, finding))), links };
}

/** Events of the objects that have a script of their own, by its path. */
function scriptsOfObjects({ profile, crate }: CrateWorld): Map<string, Set<string>> {
  const events = new Map<string, Set<string>>();
  for (const map of Object.values(crate.maps))
    for (const { script, class: id } of Object.values(map.objects)) {
      if (script === undefined) continue;
      const known = events.get(script) ?? new Set<string>();
      for (const event of classOf(profile, id)?.events ?? []) known.add(event.id);
      events.set(script, known);
    }
  return events;
}

/** Findings of how something lies on the ground: what holds for a member holds for the prefab around it. */
const ON_GROUND = new Set(['object-off-ground', 'object-buried', 'zone-in-air', 'zone-buried']);

/** A finding about a member of a placed prefab leads to its copy. On ground the whole copy is moved; any other fix would make a stray member. */
function ofCopy(given: CrateWorld, finding: Finding): Finding {
  const map = finding.place?.map === undefined ? undefined : own(given.crate.maps, finding.place.map);
  const member = finding.place?.object ?? finding.place?.solid;
  const copy = map && member ? copyOf(map, member) : null;
  if (!copy) return finding;
  const place = { ...finding.place, copy };
  const fix = ON_GROUND.has(finding.code) ? movedCopy(expandMap(map!, given.profile), map!.copies[copy], copy, finding.fix) : undefined;
  if (fix) return { ...finding, place, fix };
  const { fix: _fix, ...rest } = finding;
  return { ...rest, hint: `${finding.hint ?? ''} It belongs to a prefab: edit that in its place.`.trim(), place };
}

/** A fix that moves one object of a copy and does nothing else, as one that moves the copy by as much. */
function movedCopy(whole: GameMap, copy: Copy, id: string, fix: Finding['fix']): Finding['fix'] {
  const [change, ...more] = fix?.kind === 'edit' ? fix.edit.changes : [];
  if (change?.of !== 'objects' || !change.to || more.length > 0) return undefined;
  const before = own(whole.objects, change.id);
  if (!before || canonicalJson({ ...before, position: null }) !== canonicalJson({ ...change.to, position: null })) return undefined;
  const { position: to } = change.to;
  const position = copy.position.map((v, k) => v + to[k] - before.position[k]) as Vec3;
  return { kind: 'edit', label: fix!.label, edit: { name: `move ${copy.name}`, changes: [{ of: 'copies', id, to: { ...copy, position } }] } };
}
