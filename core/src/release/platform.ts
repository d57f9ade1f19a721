/** Packages for several platforms of a game from one build: what each has to be, and in what it differs. */

import { WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { capKtx2 } from '../asset/texture/capKtx2.ts';
import type { FileTree } from '../crate/fileTree.ts';
import type { Finding } from '../finding.ts';
import type { Platform, Profile } from '../profile/schema.ts';
import { UnreadableInput } from '../unreadable.ts';

/** A package for one platform, beside the one that is as built. */
export interface PlatformPackage {
  id: string;
  sha256: string;
  bytes: number;
  /** In what it is another one, a sentence for each file. */
  differences: string[];
  findings: Finding[];
}

export interface ForPlatform {
  tree: FileTree;
  /** A sentence for each file that is another one there. */
  differences: string[];
  findings: Finding[];
}

const decoder = new TextDecoder();
const encoder = new TextEncoder();

/** @throws {UnreadableInput} `platform-unknown`, which names those that there are */
export function platformOf({ title, package: { platforms = [] } }: Profile, id: string): Platform {
  const platform = platforms.find((candidate) => candidate.id === id);
  if (platform) return platform;
  throw new UnreadableInput(
    'platform-unknown',
    `${title} has no platform ${id}.`,
    {},
    platforms.length === 0 ? 'Its packages are the same everywhere: leave the platform out.' : `It has ${platforms.map((p) => p.id).join(', ')}.`,
  );
}

/** The files of a package as a platform wants them. @param tree as it is for all */
export async function forPlatform(tree: FileTree, platform: Platform): Promise<ForPlatform> {
  const out: FileTree = new Map();
  const differences: string[] = [];
  const findings: Finding[] = [];
  for (const [path, bytes] of tree) {
    const [made, difference] = await adapted(path, bytes, platform);
    out.set(path, made);
    if (difference) differences.push(`${path}: ${difference}.`);
    if (platform.maxPath !== undefined && path.length > platform.maxPath)
      findings.push({
        code: 'platform-path',
        severity: 'blocker',
        stage: 'publish',
        message: `${path} has ${path.length} characters; ${platform.title} takes ${platform.maxPath}.`,
        hint: 'Rename it under Links.',
        place: { file: path },
      });
  }
  return { tree: out, differences, findings };
}

async function adapted(path: string, bytes: Uint8Array, { maxTexture, lineEnds }: Platform): Promise<[Uint8Array, string | null]> {
  // Light maps are looked up by texel: their size belongs to the map's geometry.
  if (maxTexture !== undefined && path.endsWith('.ktx2') && !path.endsWith('/lightmap.ktx2')) {
    const { bytes: made, from, to } = capped(path, bytes, maxTexture);
    return [made, to < from ? `${to} pixels instead of ${from}` : null];
  }
  if (maxTexture !== undefined && path.endsWith('.glb')) return cappedModel(path, bytes, maxTexture);
  if (lineEnds && path.endsWith('.lua')) {
    const text = decoder.decode(bytes);
    const ended = text.replace(/\r?\n/g, lineEnds === 'crlf' ? '\r\n' : '\n');
    return ended === text ? [bytes, null] : [encoder.encode(ended), `lines end with ${lineEnds === 'crlf' ? 'CR and LF' : 'LF'}`];
  }
  return [bytes, null];
}

/** Pictures that a model or a built map holds within itself. */
async function cappedModel(path: string, bytes: Uint8Array, maxTexture: number): Promise<[Uint8Array, string | null]> {
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS);
  const document = await io.readBinary(bytes).catch((error: unknown) => damaged(path, error));
  let smaller = 0;
  for (const texture of document.getRoot().listTextures()) {
    const image = texture.getImage();
    if (!image || texture.getMimeType() !== 'image/ktx2') continue;
    const { bytes: made, from, to } = capped(path, image, maxTexture);
    if (to === from) continue;
    texture.setImage(new Uint8Array(made));
    smaller++;
  }
  return smaller === 0 ? [bytes, null] : [await io.writeBinary(document), `${smaller} of its pictures at most ${maxTexture} pixels large`];
}

function capped(path: string, bytes: Uint8Array, maxTexture: number): ReturnType<typeof capKtx2> {
  try {
    return capKtx2(bytes, maxTexture);
  } catch (error) {
    return damaged(path, error);
  }
}

function damaged(path: string, error: unknown): never {
  throw new UnreadableInput(
    'platform-damaged',
    `${path} cannot be made smaller: it is damaged (${(error as Error).message}).`,
    { file: path },
    'Import it again.',
  );
}
