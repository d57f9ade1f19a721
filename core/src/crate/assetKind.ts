import { UnreadableInput } from '../unreadable.ts';

export const ASSET_KINDS = ['model', 'texture', 'sound', 'script'] as const;
export type AssetKind = (typeof ASSET_KINDS)[number];

const ENDINGS: Record<AssetKind, RegExp> = {
  model: /\.(obj|glb|gltf|stl|ply|dae|fbx)$/i,
  texture: /\.(png|jpe?g|webp|tga|bmp|gif|tiff?|hdr|exr|ktx2)$/i,
  sound: /\.(wav|ogg|flac|mp3)$/i,
  script: /\.lua$/i,
};

/** Endings of files that are imported, and of those that go along with them. */
export const IMPORTABLE =
  '.obj,.mtl,.glb,.gltf,.bin,.stl,.ply,.dae,.fbx,.png,.jpg,.jpeg,.webp,.tga,.bmp,.gif,.tif,.tiff,.hdr,.exr,.ktx2,.wav,.ogg,.flac,.mp3,.lua,.zip';

/** What a file is by its name, or null where it is no asset. */
export const assetKindOf = (file: string): AssetKind | null => ASSET_KINDS.find((kind) => ENDINGS[kind].test(file)) ?? null;

export function assetKind(file: string): AssetKind {
  const kind = assetKindOf(file);
  if (kind) return kind;
  throw new UnreadableInput(
    'asset-kind',
    `${file}: files of this kind are not taken.`,
    { file },
    'Models: glb, gltf, obj, stl, ply, dae, fbx. Pictures: png, jpg, webp, tga, bmp, gif, tif, hdr, exr, ktx2. Sounds: wav, ogg, flac, mp3. Scripts: lua.',
  );
}

/** Material libraries and buffers: no assets by themselves. */
export const isCompanion = (file: string): boolean => /\.(mtl|bin)$/i.test(file);
