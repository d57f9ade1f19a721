import type { Companions } from '../../asset/mesh/read/companions.ts';
import type { Option } from '../../asset/option/option.ts';
import type { FileTree } from '../../crate/fileTree.ts';
import type { AssetRecord, CrateMaterial, Origin } from '../../crate/manifest.ts';
import type { Finding } from '../../finding.ts';
import type { Profile } from '../../profile/schema.ts';

export interface ImportInput {
  /** Path as the user has it; it says what the file is. */
  file: string;
  bytes: Uint8Array;
  /** Name in the crate, by the profile's rule; `planImport` gives it. */
  name: string;
  companions?: Companions;
  /** Pictures of single channels that become one texture, by channel. */
  pack?: Partial<Record<'occlusion' | 'roughness' | 'metalness', string>>;
  /** Names of the materials that a model's slots can take. */
  materials?: readonly string[];
  /** Title of the asset pack it comes from. */
  fromPack?: string;
  /** Another format beside the game's own: OBJ with its MTL for models, PNG at full size for textures. */
  also?: 'obj' | 'png';
  options?: Record<string, unknown>;
}

/** What a conversion answers, before it is entered into a crate. */
export interface Made {
  /** Path of the converted file in the crate. */
  path: string;
  /** Everything to be written: converted file, preview, source and its companions. */
  files: FileTree;
  /** Scripts have none: they are their own source. */
  record: AssetRecord | null;
  /** Where a script came from. */
  scriptOrigin?: Origin;
  /** What a texture adds to the material that it belongs to. */
  material?: { name: string; add: Partial<CrateMaterial>; makes: boolean };
  findings: Finding[];
}

/** One kind of asset: its settings, and what is made of a file of it. */
export interface ImportKind {
  options: readonly Option[];
  convert(profile: Profile, input: ImportInput): Promise<Made>;
}

export const extensionOf = (file: string): string => /\.[^.]+$/.exec(file)![0].toLowerCase();
