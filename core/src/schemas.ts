/** The documents that files hold, by name: written to docs/schemas and kept equal by a test. */

import type { TSchema } from '@sinclair/typebox';
import { RuntimeMapSchema } from './stages/pack/runtime.ts';
import { AssetPackSchema } from './importing/assetPack.ts';
import { BankDocumentSchema } from './bank/document.ts';
import { BankLayoutSchema } from './bank/layout.ts';
import { BankPatchSchema } from './bank/bankPatch.ts';
import { CrateLockSchema } from './crate/lock.ts';
import { BasePackSchema } from './crate/basePack.ts';
import { CrateManifestSchema } from './crate/manifest.ts';
import { MapEditSchema } from './document/edit.ts';
import { MapSchema } from './document/schema.ts';
import { EffectSchema } from './effect/document.ts';
import { ProfileSchema } from './profile/schema.ts';
import { ReleaseManifestSchema } from './release/manifest.ts';
import { SnippetSchema } from './script/snippet.ts';
import { DepotIndexSchema } from './setup/depot.ts';
import { InstructionsSchema } from './setup/instructions.ts';

export const DOCUMENT_SCHEMAS: Record<string, TSchema> = {
  profile: ProfileSchema,
  crate: CrateManifestSchema,
  map: MapSchema,
  edit: MapEditSchema,
  effect: EffectSchema,
  'base-pack': BasePackSchema,
  'asset-pack': AssetPackSchema,
  snippet: SnippetSchema,
  release: ReleaseManifestSchema,
  'runtime-map': RuntimeMapSchema,
  'crate-lock': CrateLockSchema,
  'bank-layout': BankLayoutSchema,
  'bank-document': BankDocumentSchema,
  'bank-patch': BankPatchSchema,
  'depot-index': DepotIndexSchema,
  instructions: InstructionsSchema,
};
