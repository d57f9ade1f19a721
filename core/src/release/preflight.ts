/** What is looked at before a package goes out: each point with what it means, and where it is mended. */

import type { CrateWorld } from '../crate/world.ts';
import { countFindings, type Finding, type Stage } from '../finding.ts';
import type { LinkGraph } from '../link/graph.ts';
import { checkRelease } from './pack.ts';

export interface PreflightPoint {
  id: 'findings' | 'built' | 'quality' | 'walks' | 'explorer' | 'names' | 'describe' | 'credits' | 'size' | 'unused';
  title: string;
  state: 'met' | 'note' | 'warning' | 'blocker';
  message: string;
  /** Stage whose page mends it. */
  at: Stage;
}

export interface PreflightInput {
  world: CrateWorld;
  graph: LinkGraph;
  /** All findings of the crate. */
  findings: readonly Finding[];
  /** The last good build of each map; none where there is none. */
  builds: Readonly<Record<string, { fresh: boolean; quality: string } | undefined>>;
  /** Walks of the crate, and those of them that were played on this very build and came out well; null where none was played. */
  walks: { all: readonly string[]; passed: readonly string[]; failed: readonly string[] };
  /** What the explorer came to on this very build; null where it was not let loose on it. */
  explored: { complete: boolean; findings: readonly Finding[] } | null;
  /** Bytes of the last package; null where there is none. */
  packageBytes: number | null;
}

export function preflight({ world, graph, findings, builds, walks, explored, packageBytes }: PreflightInput): PreflightPoint[] {
  const { crate, profile } = world;
  const maps = Object.keys(crate.maps);
  const { blocker, warning } = countFindings(findings.filter(({ stage }) => stage !== 'publish'));
  const unbuilt = maps.filter((map) => !builds[map]?.fresh);
  const rough = maps.filter((map) => builds[map]?.fresh && builds[map]?.quality !== 'final');
  const release = checkRelease(world, graph);
  const about = release.filter(({ code }) => code.startsWith('release-'));
  const credits = release.filter(({ code }) => !code.startsWith('release-'));
  const worst = (list: readonly Finding[]): PreflightPoint['state'] =>
    list.some(({ severity }) => severity === 'blocker')
      ? 'blocker'
      : list.some(({ severity }) => severity === 'warning')
        ? 'warning'
        : list.length > 0
          ? 'note'
          : 'met';
  const told = (list: readonly Finding[], fine: string) =>
    list.length === 0 ? fine : `${list[0].message}${list.length > 1 ? ` And ${list.length - 1} more.` : ''}`;
  const untried = walks.all.filter((name) => !walks.passed.includes(name) && !walks.failed.includes(name));
  const unused = findings.filter(({ code }) => code === 'link-unused').length;
  const { maxBytes } = profile.package;
  return [
    {
      id: 'findings',
      title: 'Nothing stands in the way',
      state: blocker > 0 ? 'blocker' : warning > 0 ? 'warning' : 'met',
      message: blocker + warning === 0 ? 'No blockers and no warnings.' : `${blocker} blockers and ${warning} warnings are open.`,
      at: 'map',
    },
    {
      id: 'built',
      title: 'Every map is built as it is',
      state: unbuilt.length > 0 ? 'blocker' : 'met',
      message: unbuilt.length > 0 ? `${unbuilt.join(', ')}: no build, or one of an older state.` : `${maps.join(', ')}.`,
      at: 'build',
    },
    {
      id: 'quality',
      title: 'Built in final quality',
      state: rough.length > 0 ? 'warning' : unbuilt.length > 0 ? 'note' : 'met',
      message:
        rough.length > 0
          ? `${rough.map((map) => `${map} is ${builds[map]!.quality}`).join(', ')}: its light is coarse.`
          : unbuilt.length > 0
            ? 'Nothing is built yet.'
            : 'Light and visibility are at their best.',
      at: 'build',
    },
    {
      id: 'walks',
      title: 'Recorded walks still work',
      state: walks.failed.length > 0 ? 'blocker' : untried.length > 0 ? 'warning' : walks.all.length === 0 ? 'note' : 'met',
      message:
        walks.failed.length > 0
          ? `${walks.failed.join(', ')} did not come to its end.`
          : untried.length > 0
            ? `${untried.join(', ')}: not played on this build yet.`
            : walks.all.length === 0
              ? 'None is recorded: a walk would show that the map can be played to its end.'
              : `${walks.passed.join(', ')}.`,
      at: 'trial',
    },
    {
      id: 'explorer',
      title: 'Nobody gets stuck',
      state: explored === null ? 'note' : worst(explored.findings.filter(({ severity }) => severity !== 'note')),
      message:
        explored === null
          ? 'The explorer has not tried this build yet.'
          : told(
              explored.findings.filter(({ severity }) => severity !== 'note'),
              explored.complete
                ? 'The explorer tried everything there is to try.'
                : 'The explorer found nothing in its time; it did not come to an end.',
            ),
      at: 'trial',
    },
    {
      id: 'names',
      title: 'Map, archive and package agree',
      state: crate.maps[crate.manifest.mainMap] ? 'met' : 'blocker',
      message: crate.maps[crate.manifest.mainMap]
        ? `${profile.title} loads maps/${crate.manifest.mainMap} of mods/${crate.manifest.name}; the archive is ${crate.manifest.name}-${crate.manifest.version}.zip.`
        : `The main map ${crate.manifest.mainMap} is not there.`,
      at: 'publish',
    },
    {
      id: 'describe',
      title: 'People know what it is',
      state: worst(about),
      message: told(about, 'It has a description and authors.'),
      at: 'publish',
    },
    {
      id: 'credits',
      title: 'Everybody is credited, and may be',
      state: worst(credits),
      message: told(credits, 'Authors and licences are known and go together.'),
      at: 'publish',
    },
    {
      id: 'size',
      title: 'It is no larger than the game takes',
      state: packageBytes === null ? 'note' : packageBytes > maxBytes ? 'blocker' : 'met',
      message: packageBytes === null ? 'Known once there is a package.' : `${packageBytes} of ${maxBytes} bytes.`,
      at: 'links',
    },
    {
      id: 'unused',
      title: 'Nothing is carried in vain',
      state: unused > 0 ? 'note' : 'met',
      message: unused > 0 ? `${unused} things are in the crate and nothing needs them; they do not travel.` : 'Everything is used.',
      at: 'links',
    },
  ];
}
