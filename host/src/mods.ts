/** Mods of a game as they lie in its mods folder: what is installed, enabled or not, from where, whole or not, and what was there before. */

import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { Type, type Static } from '@sinclair/typebox';
import { Value } from '@sinclair/typebox/value';
import { isVersion } from '@violet-crate/core/crate/version';
import { RequiresSchema } from '@violet-crate/core/crate/manifest';
import { readDocument } from '@violet-crate/core/document/readDocument';
import { sha256Hex } from '@violet-crate/core/hash';
import { planInstall, needersOf } from '@violet-crate/core/release/dependencies';
import { installRelease } from '@violet-crate/core/release/install';
import { RELEASE_FILE, ReleaseManifestSchema, type ReleaseManifest } from '@violet-crate/core/release/manifest';
import { verifyTree } from '@violet-crate/core/release/pack';
import { fingerprint, signerOf } from '@violet-crate/core/release/signature';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { verifySignature } from './authorKey.ts';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { bankCopies, dropBankCopies, mendBankCopies, placeBankCopies, wrongCopies } from './bankCopies.ts';
import { writeWhole } from './files.ts';
import { readTree } from './folderTree.ts';
import { isFileInside, readInside } from './inside.ts';
import { BEFORE, mendMods, modsFolder, OFF } from './modsFolder.ts';
import { askWorkshop, fetchUpdate } from './workshopClient.ts';

/** Bytes of a release's document that are read. */
const DOCUMENT_BYTES = 64 << 20;
/** Where mods came from, beside them; `order` is theirs where two bring the same. */
const NOTES = '.installed.json';

interface Origin {
  shareCode: string;
  workshop: string;
  at: string;
}

/** Who a mod was signed by when it first came: an Ed25519 key, or nobody, at a workshop. */
interface Known {
  signer: string;
  since: string;
}

interface Notes {
  from: Record<string, Origin>;
  order: string[];
  known: Record<string, Known>;
}

/** A mod is signed by another than before: the user says whether that is meant. */
export class OtherSigner extends UnreadableInput {
  constructor(
    message: string,
    /** What stands for who signs it now, to be said back by a user who means it. */
    readonly signer: { mod: string; signer: string },
  ) {
    super('mod-signer', message, {}, 'Nothing was installed. Ask its author whether that is right.');
  }
}

export interface InstalledMod {
  name: string;
  manifest: ReleaseManifest;
  enabled: boolean;
  bytes: number;
  from: Origin | null;
  /** The version that was there before; one can go back to it. */
  before: string | null;
  /** Public key of who signed it; null where nobody did, `false` where the signature is not of it. */
  signer: string | null | false;
}

export interface Clash {
  path: string;
  /** Names of the mods that bring it, in the order in which they are looked through: the first counts. */
  mods: string[];
}

function readNotes(mods: string): Notes {
  try {
    const notes = JSON.parse(readFileSync(join(mods, NOTES), 'utf8')) as Partial<Notes>;
    return { from: notes.from ?? {}, order: notes.order ?? [], known: notes.known ?? {} };
  } catch {
    // None yet, or damaged: mods are there all the same, of unknown origin.
    return { from: {}, order: [], known: {} };
  }
}

const writeNotes = (mods: string, notes: Notes): void => writeWhole(join(mods, NOTES), Buffer.from(JSON.stringify(notes, null, 2)));

const folderOf = (mods: string, name: string): string => (existsSync(join(mods, name)) ? join(mods, name) : join(mods, OFF, name));

function manifestIn(folder: string): ReleaseManifest | null {
  try {
    return readDocument(new TextDecoder().decode(readInside(folder, RELEASE_FILE, DOCUMENT_BYTES) ?? undefined), ReleaseManifestSchema, RELEASE_FILE);
  } catch {
    return null;
  }
}

const foldersIn = (at: string): string[] =>
  existsSync(at)
    ? readdirSync(at, { withFileTypes: true })
        .filter((entry) => entry.isDirectory() && !entry.name.startsWith('.'))
        .map(({ name }) => name)
    : [];

/**
 * By name. Folders that hold no release are none of ours. What was killed halfway is mended first.
 *
 * @param game folder of the install, whose banks may have copies for mods
 */
export function listMods(mods: string, game?: string): InstalledMod[] {
  mendMods(mods);
  if (game !== undefined)
    for (const name of [...foldersIn(mods), ...foldersIn(join(mods, OFF))]) mendBankCopies(game, name, banksOf(folderOf(mods, name)));
  const { from } = readNotes(mods);
  const read = (name: string, enabled: boolean): InstalledMod[] => {
    const folder = join(mods, enabled ? '' : OFF, name);
    const manifest = manifestIn(folder);
    if (!manifest) return [];
    const own = Object.hasOwn(from, name) ? from[name] : null;
    return [
      {
        name,
        manifest,
        enabled,
        bytes: manifest.files.reduce((sum, { bytes }) => sum + bytes, 0),
        from: manifest.local ? null : own,
        before: manifestIn(join(mods, BEFORE, name))?.version ?? null,
        signer: signerIn(folder),
      },
    ];
  };
  return [...foldersIn(mods).flatMap((name) => read(name, true)), ...foldersIn(join(mods, OFF)).flatMap((name) => read(name, false))].sort((a, b) =>
    a.name < b.name ? -1 : 1,
  );
}

function signerIn(folder: string): InstalledMod['signer'] {
  const tree = new Map(
    [RELEASE_FILE, 'release.sig'].flatMap((file) => (isFileInside(folder, file) ? [[file, readInside(folder, file)!] as const] : [])),
  );
  try {
    return signerOf(tree, verifySignature);
  } catch {
    return false;
  }
}

export const modOrder = (mods: string): string[] => readNotes(mods).order;

export function setModOrder(mods: string, order: string[]): void {
  writeNotes(mods, { ...readNotes(mods), order });
}

/** Files that say something of a mod and nothing to the game. */
const ABOUT = new Set([RELEASE_FILE, 'release.sig', 'thumbnail.png', 'CREDITS.md', 'credits.json', 'materials.json']);

/** What several enabled mods bring under one path, with other content. */
export function clashes(installed: readonly InstalledMod[], order: readonly string[]): Clash[] {
  const rank = (name: string) => (order.includes(name) ? order.indexOf(name) : order.length);
  const active = installed.filter(({ enabled }) => enabled).sort((a, b) => rank(a.name) - rank(b.name) || (a.name < b.name ? -1 : 1));
  const by = new Map<string, { mods: string[]; hashes: Set<string> }>();
  for (const { name, manifest } of active)
    for (const { path, sha256 } of manifest.files) {
      if (ABOUT.has(path)) continue;
      const entry = by.get(path) ?? { mods: [], hashes: new Set() };
      by.set(path, entry);
      entry.mods.push(name);
      entry.hashes.add(sha256);
    }
  return [...by].flatMap(([path, { mods, hashes }]) => (mods.length > 1 && hashes.size > 1 ? [{ path, mods }] : []));
}

/** What is wrong with a mod's files and its copies of the game's banks, in a sentence; null where all are as they were published. */
export function verifyMod(mods: string, name: string, game?: string): string | null {
  const folder = folderOf(mods, name);
  const manifest = need(mods, name);
  const wrong = verifyTree(manifest, readTree(folder, { hidden: true }));
  if (wrong) return wrong;
  if (signerIn(folder) === false) return 'Its signature is not of what it holds.';
  return game === undefined ? null : wrongCopies(game, name, banksOf(folder));
}

function need(mods: string, name: string): ReleaseManifest {
  const manifest = /^[a-z][a-z0-9_]*$/.test(name) ? manifestIn(folderOf(mods, name)) : null;
  if (!manifest) throw new UnreadableInput('mod-missing', `No mod ${name} is installed.`, {}, 'Look at the list of installed mods.');
  return manifest;
}

/** Patches of banks that a mod's folder holds. */
function banksOf(folder: string): FileTree {
  const banks = join(folder, 'banks');
  return existsSync(banks) ? new Map([...readTree(banks)].map(([path, bytes]) => [`banks/${path}`, bytes])) : new Map();
}

/** @throws UnreadableInput where other mods need it, unless `anyway` */
function needless(mods: string, name: string, anyway: boolean): void {
  const active = listMods(mods).flatMap(({ manifest, enabled }) => (enabled ? [manifest] : []));
  const needers = needersOf(name, active);
  if (needers.length > 0 && !anyway)
    throw new UnreadableInput(
      'mod-needed',
      `${needers.map((one) => `${one.name} needs ${name} ${one.range}`).join(', ')}.`,
      {},
      'Take those out first.',
    );
}

/** @param game folder of the install, whose banks may have copies for the mod */
export function removeMod(mods: string, name: string, anyway = false, game?: string): void {
  need(mods, name);
  needless(mods, name, anyway);
  if (game !== undefined) dropBankCopies(game, name, banksOf(folderOf(mods, name)));
  // Out of the game's sight at once, and cleared away then: killed in between, the rest is cleared away next time.
  const gone = join(mods, `.${name}.new`);
  renameSync(folderOf(mods, name), gone);
  const { [name]: _, ...from } = readNotes(mods).from;
  writeNotes(mods, { ...readNotes(mods), from });
  rmSync(gone, { recursive: true, force: true });
  rmSync(join(mods, BEFORE, name), { recursive: true, force: true });
}

export function enableMod(mods: string, name: string, enabled: boolean, anyway = false): void {
  need(mods, name);
  if (!enabled) needless(mods, name, anyway);
  const [on, off] = [join(mods, name), join(mods, OFF, name)];
  const [from, to] = enabled ? [off, on] : [on, off];
  if (!existsSync(from)) return;
  mkdirSync(join(mods, OFF), { recursive: true });
  rmSync(to, { recursive: true, force: true });
  renameSync(from, to);
}

/** Puts the version that was there before in the place of the one that is, which is then the one before. */
export function goBack(mods: string, name: string, game?: string): ReleaseManifest {
  need(mods, name);
  const before = join(mods, BEFORE, name);
  const manifest = manifestIn(before);
  if (!manifest)
    throw new UnreadableInput(
      'mod-before',
      `Nothing is kept of what ${name} was before.`,
      {},
      'Install the version that you want by its share code.',
    );
  const tree = readTree(before, { hidden: true });
  const copies = game === undefined ? null : bankCopies(game, name, tree);
  if (game !== undefined) dropBankCopies(game, name, banksOf(folderOf(mods, name)));
  installRelease(modsFolder(mods), manifest, tree);
  if (copies) placeBankCopies(copies);
  return manifest;
}

/** A workshop's answer about a mod, as far as updates and dependencies need it. */
const ModAnswerSchema = Type.Object({
  current: Type.Union([Type.String(), Type.Null()]),
  versions: Type.Array(
    Type.Object({
      name: Type.String(),
      version: Type.String(),
      shareCode: Type.String(),
      profile: Type.String(),
      notes: Type.String(),
      requires: Type.Optional(RequiresSchema),
      withdrawnAt: Type.Optional(Type.String()),
      withdrawnFor: Type.Optional(Type.String()),
    }),
    { maxItems: 10_000 },
  ),
});
type ModAnswer = Static<typeof ModAnswerSchema>;

export interface Update {
  version: string;
  shareCode: string;
  notes: string;
  /** The version that is there was withdrawn, for this reason. */
  withdrawn?: string;
}

const viewOf = async (workshop: string, token: string | null, path: string, headers?: Record<string, string>): Promise<ModAnswer | null> => {
  try {
    const answer = await askWorkshop(workshop, token, 'GET', path, undefined, undefined, headers);
    const wrong = Value.Errors(ModAnswerSchema, answer).First();
    if (wrong)
      throw new UnreadableInput(
        'workshop-answer',
        `The workshop at ${new URL(workshop).origin} answered with a mod whose ${wrong.path.slice(1) || 'form'} is not right.`,
        {},
        'Check the address in the settings: there is something else there.',
      );
    const { current, versions } = answer as ModAnswer;
    // One row that is none does not take the others with it.
    return { current, versions: versions.filter(({ version }) => isVersion(version)) };
  } catch (error) {
    // What is private, deleted or was never there: the same to whoever asks.
    if (error instanceof UnreadableInput && error.code === 'workshop-refused') return null;
    throw error;
  }
};

/** All versions of a mod that a workshop has; null where it has no such mod. */
export const askMod = (workshop: string, token: string | null, name: string): Promise<ModAnswer | null> =>
  viewOf(workshop, token, `/api/mods/${name}`);

/** What the workshop gives out instead of what is there: newer, or older after a rollback; null where nothing is. @param who number that this machine made up */
export async function updateOf(mod: InstalledMod, token: string | null, who: string): Promise<Update | null> {
  if (!mod.from) return null;
  const seen = { 'x-installation': who, 'x-version': mod.manifest.version };
  const view = await viewOf(mod.from.workshop, token, `/api/releases/${mod.from.shareCode}/mod`, seen);
  const current = view?.versions.find(({ version }) => version === view.current);
  if (!view || !current || current.version === mod.manifest.version) return null;
  const own = view.versions.find(({ version }) => version === mod.manifest.version);
  return {
    version: current.version,
    shareCode: current.shareCode,
    notes: current.notes,
    ...(own?.withdrawnAt ? { withdrawn: own.withdrawnFor ?? '' } : {}),
  };
}

export interface Installed {
  name: string;
  version: string;
  title: string;
  verified: number;
  /** Bytes that had to be fetched. */
  fetched: number;
  folder: string;
}

/**
 * Installs a release and all that it needs, dependencies first. All are fetched before any is put into place, each whole or not
 * at all, so that no mod is ever there without what it needs.
 *
 * @param game id of the profile that the folder is of
 * @param folder of the install, whose banks get copies where mods bring patches of them
 */
export async function installMod(
  mods: string,
  game: string,
  given: { workshop: string; token: string | null; shareCode: string; signers?: Readonly<Record<string, string>> },
  folder?: string,
): Promise<Installed[]> {
  const { workshop, token, shareCode, signers = {} } = given;
  const wanted = /^[A-Za-z0-9-]{1,40}$/.test(shareCode.trim()) ? await viewOf(workshop, token, `/api/releases/${shareCode.trim()}/mod`) : null;
  const code = shareCode.trim().toUpperCase();
  const release = wanted?.versions.find((one) => one.shareCode === code);
  const there = listMods(mods, folder);
  const plan = release
    ? await planInstall(
        release,
        there.flatMap(({ manifest, enabled }) => (enabled ? [manifest] : [])),
        async (name) => (await askMod(workshop, token, name))?.versions ?? [],
      )
    : // The workshop says itself why there is none.
      { install: [{ shareCode, name: '', version: '' }], problems: [] };
  if (plan.problems.length > 0) throw new UnreadableInput('mod-dependencies', plan.problems.join(' '), {}, 'Nothing was installed.');
  const fetched = [];
  for (const one of plan.install) {
    const have = contentOf(mods, one.name);
    const made = await fetchUpdate(workshop, one.shareCode, have, undefined, token);
    needAsked(one, made);
    const signer = needSigner(mods, made, workshop, signers);
    if (made.manifest.profile !== game)
      throw new UnreadableInput(
        'game-other',
        `${made.manifest.title} is for ${made.manifest.profile}, not for ${game}.`,
        {},
        'Choose an install of that game.',
      );
    // A bank that is another one stops it before anything is there.
    const copies = folder === undefined ? null : bankCopies(folder, made.manifest.name, made.tree);
    fetched.push({ ...made, copies, signer, shareCode: made.release.shareCode });
  }
  return fetched.map(({ manifest, tree, copies, signer, shareCode: from, fetched: bytes }) => {
    if (folder !== undefined && manifestIn(join(mods, manifest.name))) dropBankCopies(folder, manifest.name, banksOf(join(mods, manifest.name)));
    const verified = installRelease(modsFolder(mods), manifest, tree);
    rmSync(join(mods, OFF, manifest.name), { recursive: true, force: true });
    if (copies) placeBankCopies(copies);
    const notes = readNotes(mods);
    const at = new Date().toISOString();
    const before = Object.hasOwn(notes.known, manifest.name) ? notes.known[manifest.name] : null;
    writeNotes(mods, {
      ...notes,
      from: { ...notes.from, [manifest.name]: { shareCode: from, workshop, at } },
      known: { ...notes.known, [manifest.name]: before?.signer === signer ? before : { signer, since: at } },
    });
    return { name: manifest.name, version: manifest.version, title: manifest.title, verified, fetched: bytes, folder: join(mods, manifest.name) };
  });
}

type Made = Awaited<ReturnType<typeof fetchUpdate>>;

/** @throws UnreadableInput where a package is not the release that was asked for */
function needAsked(one: { name: string; version: string }, { manifest, release }: Made): void {
  const asked = { name: one.name || release.name, version: one.version || release.version };
  const is = `${manifest.name} ${manifest.version}`;
  for (const { name, version } of [asked, release])
    if (manifest.name !== name || manifest.version !== version)
      throw new UnreadableInput(
        'mod-other',
        `The workshop gives out ${is} as ${name} ${version}.`,
        {},
        'Nothing was installed. Tell its author, or the workshop.',
      );
}

/**
 * Who a package is signed by. The first is remembered; another one later, or nobody, has to be meant.
 *
 * @throws UnreadableInput where the signature is not of the package, or of another key than the workshop says
 */
function needSigner(mods: string, { manifest, tree, release }: Made, workshop: string, signers: Readonly<Record<string, string>>): string {
  const key = signerOf(tree, verifySignature);
  if (key === false || (release.key !== undefined && release.key !== (key ?? '')))
    throw new UnreadableInput(
      'mod-altered',
      `${manifest.title} ${manifest.version} is not what its author signed.`,
      {},
      'Nothing was installed. Tell its author, or the workshop.',
    );
  const signer = key ?? `nobody, at ${new URL(workshop).origin}`;
  const known = readNotes(mods).known;
  const before = Object.hasOwn(known, manifest.name) ? known[manifest.name] : signedBefore(mods, manifest.name);
  if (before && before.signer !== signer && !(Object.hasOwn(signers, manifest.name) && signers[manifest.name] === signer))
    throw new OtherSigner(
      `${manifest.title} was signed by ${signerWords(before.signer)} since ${before.since.slice(0, 10)}; ${manifest.version} is signed by ${signerWords(signer)}.`,
      { mod: manifest.name, signer },
    );
  return signer;
}

/** A mod that is there from before signers were remembered. */
function signedBefore(mods: string, name: string): Known | null {
  const key = manifestIn(folderOf(mods, name)) ? signerIn(folderOf(mods, name)) : null;
  const { from } = readNotes(mods);
  return typeof key === 'string' ? { signer: key, since: Object.hasOwn(from, name) ? from[name].at : 'it was installed' } : null;
}

const signerWords = (signer: string): string => (signer.startsWith('nobody') ? signer : `the key ${fingerprint(signer)}`);

/** Files of the installed version by their hash, read when they are asked for, and only those that are as they were. */
function contentOf(mods: string, name: string): ((file: { sha256: string }) => Uint8Array | null) | null {
  if (name === '' || !manifestIn(folderOf(mods, name))) return null;
  const folder = folderOf(mods, name);
  const known = new Map((manifestIn(folder)?.files ?? []).map((file) => [file.sha256, file.path]));
  return ({ sha256 }: { sha256: string }): Uint8Array | null => {
    const path = known.get(sha256);
    const bytes = path !== undefined && isFileInside(folder, path) ? readInside(folder, path) : null;
    return bytes && sha256Hex(bytes) === sha256 ? bytes : null;
  };
}
