import { optionsProblem } from '@violet-crate/core/asset/option/option';
import type { AssetKind } from '@violet-crate/core/crate/assetKind';
import { IMPORT_KINDS } from '@violet-crate/core/importing/kind/kinds';
import { Problem } from '../http/problem.ts';

/** Settings for one kind of asset, checked by its table; anything unknown or out of range is refused by name. */
export function checkOptions(kind: AssetKind, given: Record<string, unknown>): Record<string, unknown> {
  const problem = optionsProblem(IMPORT_KINDS[kind].options, given);
  if (problem) throw new Problem(422, 'option', problem);
  return given;
}
