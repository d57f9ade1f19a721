/** How every kind of asset is made. A new kind is a line in `crate/assetKind.ts`, its own file here, and a line below. */

import type { AssetKind } from '../../crate/assetKind.ts';
import { effect } from './effect.ts';
import type { ImportKind } from './made.ts';
import { model } from './model.ts';
import { script } from './script.ts';
import { sound } from './sound.ts';
import { subtitle } from './subtitle.ts';
import { texture } from './texture.ts';

export const IMPORT_KINDS: Readonly<Record<AssetKind, ImportKind>> = { model, texture, sound, subtitle, effect, script };
