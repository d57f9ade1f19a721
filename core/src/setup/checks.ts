/** Judges what was seen of an install: what is in order, what is not, what that means, and how it is mended. */

import type { Severity, Stage } from '../finding.ts';
import type { Profile } from '../profile/schema.ts';
import type { InstallFacts } from './facts.ts';
import { versionProblem } from '../profile/versionRule.ts';

export interface SetupCheck {
  id: string;
  title: string;
  ok: boolean;
  /** How bad it is where it is not in order. */
  severity: Severity;
  detail: string;
  /** What it means when it is not in order, and how to mend it. */
  hint?: string;
  /** An action that the machine's side knows (`host/src/setup/repair.ts`). */
  fix?: { action: string; label: string };
  /** The stages that it stands in the way of when it is not in order. */
  concerns: Stage[];
}

const MIB = 1 << 20;
const mib = (bytes: number) => `${Math.floor(bytes / MIB).toLocaleString('en')} MiB`;
/** A clock may be behind by so much before anything is said. Milliseconds. */
const CLOCK_SLACK = 86_400_000;

type Given = Partial<SetupCheck> & Pick<SetupCheck, 'id' | 'title' | 'detail'>;
const fine = (given: Given): SetupCheck => ({ severity: 'note', concerns: [], ...given, ok: true });
const wrong = (severity: Severity, concerns: Stage[], given: Given): SetupCheck => ({ ...given, severity, concerns, ok: false });

/** All checks of an install, in the order in which one mends. */
export function checkInstall(profile: Profile, facts: InstallFacts): SetupCheck[] {
  return [
    checkGame(profile, facts),
    ...checkTools(profile, facts),
    checkBase(profile, facts),
    checkMods(facts),
    checkSpace(profile, facts),
    ...checkMachine(profile, facts),
    ...checkPath(profile, facts),
  ];
}

function checkGame({ title, install }: Profile, { folder, version }: InstallFacts): SetupCheck {
  const about = { id: 'game', title: 'Game found' };
  if (version) return fine({ ...about, detail: `${title} ${version} in ${folder}` });
  return wrong('blocker', ['build', 'trial', 'publish'], {
    ...about,
    detail: `${install.versionFile} is missing or unreadable in ${folder}.`,
    hint: 'Choose the folder that the game lies in, or get it from the depot.',
  });
}

function* checkTools({ install }: Profile, { version, tools }: InstallFacts): Generator<SetupCheck> {
  for (const tool of install.tools) {
    const seen = tools.find(({ id }) => id === tool.id);
    const fix = seen?.restorable ? { action: `tool:${tool.id}`, label: `Install ${tool.title}` } : undefined;
    const severity: Severity = tool.optional ? 'note' : 'blocker';
    const concerns: Stage[] = tool.optional ? [] : ['build'];
    const about = { id: `tool-${tool.id}`, title: `${tool.title} in the same install` };
    if (!seen?.version) {
      yield wrong(severity, concerns, {
        ...about,
        detail: seen?.problem ?? `${tool.folder}/tool.json is missing.`,
        hint: 'Install it into the game’s own folder; tools elsewhere are not used.',
        fix,
      });
      continue;
    }
    yield fine({ ...about, detail: `Version ${seen.version} in ${tool.folder}` });
    if (!version) continue;
    const problem = versionProblem(tool.rule ?? 'release', seen.version, version);
    const match = { id: `version-${tool.id}`, title: `${tool.title} matches the game` };
    yield problem
      ? wrong(severity, concerns, {
          ...match,
          detail: problem,
          hint: `Maps made with ${seen.version} may not load; bring both to versions that go together.`,
          fix,
        })
      : fine({ ...match, detail: `${seen.version} goes with ${version}` });
  }
}

function checkBase({ install }: Profile, { base, version }: InstallFacts): SetupCheck {
  const about = { id: 'base', title: 'Base pack complete' };
  const fix = base.restorable ? { action: 'base', label: 'Restore the base pack' } : undefined;
  const needed: Stage[] = ['map', 'build', 'trial'];
  if (base.version === null)
    return wrong('blocker', needed, {
      ...about,
      detail: `${install.basePack}/pack.json is missing or unreadable.`,
      hint: 'Without the base pack there are no stock materials or models.',
      fix,
    });
  if (base.wrong.length > 0)
    return wrong('blocker', needed, {
      ...about,
      detail: `${base.wrong.length} of ${base.files} files are missing or changed: ${base.wrong.slice(0, 3).join(', ')}${base.wrong.length > 3 ? ' …' : ''}`,
      hint: 'Stock files were overwritten or lost; maps would look different for others.',
      fix,
    });
  const problem = version ? versionProblem('release', base.version, version) : null;
  if (problem)
    return wrong('warning', ['build'], {
      ...about,
      detail: problem.replace('The tool', 'The pack'),
      hint: 'The game was updated and its stock files were not, or the other way round. Repair the game.',
    });
  return fine({ ...about, detail: `${base.files} files, ${base.hashed ? 'all hashes right' : 'all there with their lengths'}` });
}

function checkMods({ mods }: InstallFacts): SetupCheck {
  const about = { id: 'mods', title: 'Mods folder writable' };
  if (!mods.exists)
    return wrong('blocker', ['trial', 'publish'], {
      ...about,
      detail: `${mods.path} does not exist.`,
      hint: 'Installed mods go there.',
      fix: { action: 'mods', label: 'Make the folder' },
    });
  if (!mods.writable)
    return wrong('blocker', ['trial', 'publish'], {
      ...about,
      detail: `${mods.path} cannot be written.`,
      hint: 'Change its owner or permissions to yours.',
    });
  return fine({ ...about, detail: mods.path });
}

function checkSpace({ install }: Profile, { freeBytes }: InstallFacts): SetupCheck {
  const given = { id: 'space', title: 'Free disk space', detail: `${mib(freeBytes)} free, ${mib(install.minFreeBytes)} wanted` };
  if (freeBytes >= install.minFreeBytes) return fine(given);
  return wrong('warning', ['build'], {
    ...given,
    hint: `Builds and packages need room: ${mib(install.minFreeBytes - freeBytes)} are missing. Delete what you no longer need.`,
  });
}

function* checkMachine({ install, title }: Profile, { machine }: InstallFacts): Generator<SetupCheck> {
  const needs = install.needs ?? {};
  const NAMES = { linux: 'Linux', darwin: 'macOS', win32: 'Windows' };
  if (needs.systems) {
    const given = {
      id: 'system',
      title: 'System',
      detail: `${NAMES[machine.system]}; the game runs on ${needs.systems.map((s) => NAMES[s]).join(', ')}`,
    };
    yield needs.systems.includes(machine.system)
      ? fine({ ...given, detail: NAMES[machine.system] })
      : wrong('warning', ['trial'], { ...given, hint: `Maps can be made and tried here; ${title} itself cannot be started.` });
  }
  for (const [id, name, has, wants, unit] of [
    ['memory', 'Memory', machine.memory, needs.memory, ' MiB'],
    ['cores', 'Processor cores', machine.cores, needs.cores, ''],
  ] as const) {
    if (wants === undefined) continue;
    const given = { id, title: name, detail: `${has.toLocaleString('en')}${unit}, ${wants.toLocaleString('en')}${unit} wanted` };
    yield has >= wants ? fine(given) : wrong('warning', ['build'], { ...given, hint: 'Builds will be slow or stop; build at a lower quality.' });
  }
  if (machine.foldsCase)
    yield wrong('note', [], {
      id: 'case',
      title: 'Capital letters in file names',
      detail: 'This disk takes Door.png and door.png for the same file; players’ disks may not.',
      hint: 'Keep names in small letters, as the naming rules have them.',
    });
  if (machine.installedAt !== null && machine.installedAt > machine.now + CLOCK_SLACK)
    yield wrong('warning', ['build'], {
      id: 'clock',
      title: 'Clock',
      detail: `The clock says ${new Date(machine.now).toISOString().slice(0, 10)}, but the game was installed on ${new Date(machine.installedAt).toISOString().slice(0, 10)}.`,
      hint: 'A clock that is behind makes changed files look old. Set it right.',
    });
}

function* checkPath({ install }: Profile, { folder }: InstallFacts): Generator<SetupCheck> {
  const { maxLength, spaces, ascii } = install.paths ?? {};
  const about = { id: 'path', title: 'Path of the install' };
  const hint = 'Move the game to a shorter folder with plain letters, like /games, and choose it here.';
  // The tools need room below it for the files themselves.
  if (maxLength !== undefined && folder.length > maxLength)
    yield wrong('blocker', ['build'], { ...about, detail: `It has ${folder.length} characters; the game’s tools take ${maxLength}.`, hint });
  else if (spaces === false && folder.includes(' '))
    yield wrong('blocker', ['build'], { ...about, detail: `There is a space in ${folder}; the game’s tools cannot take one.`, hint });
  else if (ascii === true && /[^\x20-\x7e]/.test(folder))
    yield wrong('blocker', ['build'], { ...about, detail: `There are letters in ${folder} that the game’s tools cannot read.`, hint });
  else if (install.paths) yield fine({ ...about, detail: 'The game’s tools can take it' });
}
