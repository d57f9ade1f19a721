import { existsSync } from 'node:fs';
import { checkLinks } from '@violet-crate/core/link/findings';
import { chainsTo, without } from '@violet-crate/core/link/chains';
import { causesOf, type Cause } from '@violet-crate/core/link/causes';
import { LinkGraph, type Tie } from '@violet-crate/core/link/graph';
import { grownSince, type Grown } from '@violet-crate/core/link/grown';
import { reportOf } from '@violet-crate/core/link/report';
import { splitId, type Thing } from '@violet-crate/core/link/thing';
import { readDocument } from '@violet-crate/core/document/readDocument';
import { RELEASE_FILE, ReleaseManifestSchema, type ReleaseManifest } from '@violet-crate/core/release/manifest';
import { openRelease } from '@violet-crate/core/release/pack';
import { hasBlocker } from '@violet-crate/core/finding';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { askWorkshop } from '@violet-crate/host/workshopClient';
import { findingLines, UsageError, type Command, type Options } from '../command.ts';
import { openCrate } from '../folder.ts';
import { tokenOf, WORKSHOP_OPTIONS, workshopOf } from '../workshopOptions.ts';
import { readInput } from '../readInput.ts';

export const linksCommand: Command = {
  summary: 'Tell what a crate’s maps need: why something is there, what would go without it, and where the bytes are.',
  usage: 'crate links DIR [--why THING] [--without THING] [--sizes] [--since VERSION|FILE.zip]',
  options: {
    why: { value: 'THING', summary: 'path of a file or name of a material: every chain from a map to it' },
    without: { value: 'THING', summary: 'what would go and break without it' },
    sizes: { summary: 'bytes by their cause' },
    since: { value: 'V', summary: 'what came, went and grew since a version on the workshop, or since the package in a file' },
    ...WORKSHOP_OPTIONS,
    game: { value: 'DIR', summary: 'the game’s install' },
  },
  arguments: [1, 1],
  async run([dir], options) {
    const { world } = openCrate(dir, options.game);
    const graph = new LinkGraph(world);
    if (options.why !== undefined) return why(graph, options.why);
    if (options.without !== undefined) return loss(graph, options.without);
    if (options.sizes) {
      const causes = causesOf(graph, world);
      return { code: 0, result: { causes }, text: causeLines(causes).join('\n') };
    }
    const reports = Object.keys(world.crate.maps).map((map) => reportOf(graph, world, map));
    if (options.since !== undefined) {
      const manifest = await releaseOf(world.crate.manifest.name, options.since, options);
      const travels = new Map(
        reports.flatMap(({ links }) => links.filter((link) => link.origin === 'crate' && link.sha256)).map((link) => [link.name, link]),
      );
      const now = [...travels.values()].map(({ name, bytes, sha256 }) => ({ path: name, bytes, sha256: sha256! }));
      // What a build makes is no part of the links; files of the crate are compared.
      const before = manifest.files.filter(({ path }) => travels.has(path) || /^(models|textures|sounds|subtitles)\//.test(path));
      const grown = grownSince(before, now);
      return { code: 0, result: { since: manifest.version, grown }, text: grown.map(grownLine).join('\n') || 'Nothing changed.' };
    }
    const findings = checkLinks(world, graph, reports);
    const lines = reports.flatMap(({ map, links, ownBytes, gameBytes }) => [
      `${map}: ${links.length} things, ${ownBytes} bytes of the crate, ${gameBytes} of the game`,
      ...links.map((link) => `  ${link.origin.padEnd(8)}${link.kind.padEnd(13)}${link.name}${link.bytes ? `  ${link.bytes}` : ''}`),
    ]);
    return {
      code: hasBlocker(findings) ? 1 : 0,
      result: { maps: reports, findings },
      text: [...lines, findingLines(findings)].join('\n'),
    };
  },
};

/** What a package held: one in a file, or a version of the crate that the workshop has. */
async function releaseOf(name: string, given: string, options: Options): Promise<ReleaseManifest> {
  if (existsSync(given)) return openRelease(readInput(given), given).manifest;
  if (!/^\d+\.\d+\.\d+$/.test(given)) throw new UsageError(`There is no file ${given}, and it is no version.`);
  const [workshop, token] = [workshopOf(options), tokenOf(options)];
  const mod = (await askWorkshop(workshop, token, 'GET', `/api/mods/${name}`)) as { versions?: { version: string; shareCode: string }[] } | null;
  const release = mod?.versions?.find(({ version }) => version === given);
  if (!release)
    throw new UnreadableInput(
      'release-unknown',
      `The workshop at ${workshop} has no ${name} ${given}.`,
      {},
      'See what it has with "crate release list".',
    );
  const { document } = (await askWorkshop(workshop, token, 'GET', `/api/releases/${release.shareCode}/manifest`)) as { document: string };
  return readDocument(document, ReleaseManifestSchema, RELEASE_FILE);
}

/** By its id, its path or its name. */
function find(graph: LinkGraph, given: string): Thing {
  const all = [...graph.all()];
  const id = all.find((one) => one === given) ?? all.find((one) => splitId(one)[1] === given) ?? all.find((one) => graph.thing(one).name === given);
  if (id === undefined)
    throw new UnreadableInput('link-unknown', `Nothing in this crate is or needs "${given}".`, {}, 'Take a path or name as "crate links" lists it.');
  return graph.thing(id);
}

const stepWords = (graph: LinkGraph, tie: Tie): string => {
  const [first, ...more] = tie.uses.values();
  const who = graph.whoIs(first);
  return `${who === 'solids' ? 'a solid' : who} (${first.what}${more.length > 0 ? `, and ${more.length} more` : ''}) → ${graph.thing(tie.to).name}`;
};

function why(graph: LinkGraph, given: string) {
  const thing = find(graph, given);
  const { chains, more } = chainsTo(graph, thing.id);
  const told = chains.map((chain) => chain.map((tie) => ({ from: tie.from, to: tie.to, uses: [...tie.uses.values()] })));
  const lines = chains.map((chain) => `${graph.thing(chain[0].from).name}: ${chain.map((tie) => stepWords(graph, tie)).join(', ')}`);
  return {
    code: 0 as const,
    result: { thing, chains: told, more },
    text: lines.length === 0 ? `No map needs ${thing.name}.` : [...lines, ...(more ? ['and more'] : [])].join('\n'),
  };
}

function loss(graph: LinkGraph, given: string) {
  const thing = find(graph, given);
  const { goes, bytes, breaks } = without(graph, thing.id);
  const broken = breaks.flatMap(({ uses }) => [...uses.values()].map((use) => `${graph.whoIs(use)} (${use.what})`));
  return {
    code: 0 as const,
    result: { thing, bytes, goes, breaks: broken },
    text: [
      `Without ${thing.name} ${bytes} bytes go:`,
      ...goes.filter(({ origin }) => origin === 'crate').map((one) => `  ${one.kind} ${one.name}${one.bytes ? `  ${one.bytes}` : ''}`),
      `${broken.length === 0 ? 'Nothing' : [...new Set(broken)].join(', ')} would be left without it.`,
    ].join('\n'),
  };
}

const causeLines = (cause: Cause, depth = 0): string[] => [
  `${'  '.repeat(depth)}${String(cause.total).padStart(10 - depth * 2)}  ${cause.kind === 'crate' ? '' : `${cause.kind} `}${cause.name}`,
  ...cause.children.flatMap((child) => causeLines(child, depth + 1)),
];

function grownLine({ path, before, after }: Grown): string {
  const by = (after ?? 0) - (before ?? 0);
  return `${`${by >= 0 ? '+' : ''}${by}`.padStart(10)}  ${path}${before === null ? ' (new)' : after === null ? ' (gone)' : ''}`;
}
