import { UnreadableInput } from '../unreadable.ts';

/**
 * Kinds of assets: where they lie in a crate, what files they are made of, and what those bring along. How each is
 * converted stands in `importing/kind/`.
 */
export const ASSETS = {
  model: { folder: 'models', words: 'Models', endings: ['glb', 'gltf', 'obj', 'stl', 'ply', 'dae', 'fbx'], along: ['mtl', 'bin'] },
  texture: {
    folder: 'textures',
    words: 'Pictures',
    endings: ['png', 'jpg', 'jpeg', 'webp', 'tga', 'bmp', 'gif', 'tif', 'tiff', 'hdr', 'exr', 'ktx2'],
    along: [],
  },
  sound: { folder: 'sounds', words: 'Sounds', endings: ['wav', 'ogg', 'flac', 'mp3'], along: [] },
  subtitle: { folder: 'subtitles', words: 'Subtitles', endings: ['vtt'], along: [] },
  effect: { folder: 'effects', words: 'Effects', endings: ['effect.json'], along: [] },
  script: { folder: 'scripts', words: 'Scripts', endings: ['lua'], along: [] },
} as const satisfies Record<string, { folder: string; words: string; endings: readonly string[]; along: readonly string[] }>;

export type AssetKind = keyof typeof ASSETS;
export const ASSET_KINDS = Object.keys(ASSETS) as AssetKind[];
/** Kinds that lie in a crate as files of their own, with records; scripts and effects are text of the crate. */
export const FILE_KINDS = ASSET_KINDS.filter((kind): kind is Exclude<AssetKind, 'script' | 'effect'> => kind !== 'script' && kind !== 'effect');

export const isAssetKind = (word: string): word is AssetKind => Object.hasOwn(ASSETS, word);
export const isFileKind = (word: string): word is (typeof FILE_KINDS)[number] => (FILE_KINDS as string[]).includes(word);

const has = (list: readonly string[], file: string): boolean => list.some((ending) => file.toLowerCase().endsWith(`.${ending}`));

/** Endings of files that are imported, and of those that go along with them. */
export const IMPORTABLE = [...ASSET_KINDS.flatMap((kind) => [...ASSETS[kind].endings, ...ASSETS[kind].along]), 'zip'].map((e) => `.${e}`).join(',');

/** What a file is by its name, or null where it is no asset. */
export const assetKindOf = (file: string): AssetKind | null => ASSET_KINDS.find((kind) => has(ASSETS[kind].endings, file)) ?? null;

export function assetKind(file: string): AssetKind {
  const kind = assetKindOf(file);
  if (kind) return kind;
  const taken = ASSET_KINDS.map((one) => `${ASSETS[one].words}: ${ASSETS[one].endings.join(', ')}.`).join(' ');
  throw new UnreadableInput('asset-kind', `${file}: files of this kind are not taken.`, { file }, taken);
}

/** Material libraries and buffers: no assets by themselves. */
export const isCompanion = (file: string): boolean => ASSET_KINDS.some((kind) => has(ASSETS[kind].along, file));
