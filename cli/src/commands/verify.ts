import { existsSync, statSync } from 'node:fs';
import { sha256Hex } from '@violet-crate/core/hash';
import { openRelease, packRelease } from '@violet-crate/core/release/pack';
import { platformOf } from '@violet-crate/core/release/platform';
import { fingerprint, SIGNATURE_FILE, signerOf } from '@violet-crate/core/release/signature';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { verifySignature } from '@violet-crate/host/authorKey';
import { findingLines, type Command } from '../command.ts';
import { needMaps, openCrate, PROGRAMS_OPTION } from '../folder.ts';
import { buildAll, qualityOf } from './build.ts';
import { readInput } from '../readInput.ts';

export const verifyCommand: Command = {
  summary: 'Check a package: every hash, the signature, and that a fresh build of the same crate gives the same bytes.',
  usage: 'crate verify FILE.zip [--crate DIR] [--quality Q]',
  options: {
    crate: { value: 'DIR', summary: 'the crate that it was made of: it is built anew and compared to the byte' },
    quality: { value: 'Q', summary: 'quality of that build (preview)' },
    game: { value: 'DIR', summary: 'the game’s install' },
    ...PROGRAMS_OPTION,
  },
  arguments: [1, 1],
  async run([file], options, progress) {
    if (!existsSync(file) || !statSync(file).isFile()) throw new UnreadableInput('file-missing', `There is no file ${file}.`, { file });
    const { manifest, tree } = openRelease(readInput(file), file);
    const signer = signerOf(tree, verifySignature);
    if (signer === false)
      throw new UnreadableInput(
        'release-signature',
        `${file}: the signature is not of what the package holds.`,
        { file },
        'Somebody changed it after its author signed it: fetch it again from its author.',
      );
    const said = [
      `${manifest.files.length} files match their SHA-256.`,
      signer === null ? 'It is not signed.' : `It is signed with the key ${fingerprint(signer)}.`,
    ];
    const result: Record<string, unknown> = { name: manifest.name, version: manifest.version, files: manifest.files.length, signer };
    if (options.crate === undefined) return { code: 0, result, text: said.join('\n') };

    const open = openCrate(options.crate, options.game);
    needMaps(open.world, true);
    const built = await buildAll(open, { quality: qualityOf(options.quality), programs: options.programs }, progress);
    const artefacts = new Map<string, Uint8Array>();
    for (const { artefacts: made, findings } of built.values()) {
      if (!made) return { code: 1, result: { ...result, built: false }, text: `A map does not build.\n${findingLines(findings)}` };
      for (const [path, bytes] of made) artefacts.set(path, bytes);
    }
    const again = await packRelease({
      world: open.world,
      artefacts,
      platform: manifest.platform === undefined ? undefined : platformOf(open.world.profile, manifest.platform),
      // Pictures are taken, not built: its own is what it is compared with.
      thumbnail: tree.get('thumbnail.png')!,
      pictures: new Map((manifest.pictures ?? []).map((path) => [path, tree.get(path)!])),
      ...(manifest.preview ? { preview: tree.get(manifest.preview)! } : {}),
      readFile: (path) => Promise.resolve(open.tree.get(path)!),
    });
    const fresh = openRelease(again.zip, 'the fresh build').tree;
    const differing = [...new Set([...tree.keys(), ...fresh.keys()])]
      .filter((path) => path !== SIGNATURE_FILE)
      .filter((path) => !tree.has(path) || !fresh.has(path) || sha256Hex(tree.get(path)!) !== sha256Hex(fresh.get(path)!));
    said.push(differing.length === 0 ? 'A fresh build of the crate gives the same bytes.' : `A fresh build differs in ${differing.join(', ')}.`);
    return { code: differing.length === 0 ? 0 : 1, result: { ...result, built: true, differing }, text: said.join('\n') };
  },
};
