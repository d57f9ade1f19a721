/** Findings of effects: what is wrong with each by itself, and with where a map has them. */

import type { CrateManifest } from '../crate/manifest.ts';
import type { CrateWorld } from '../crate/world.ts';
import type { GameMap } from '../document/schema.ts';
import { costOf, effectFindings, type EffectCost } from '../effect/cost.ts';
import { effectPath, isEffect, type Effect } from '../effect/document.ts';
import { effectOf, effectsOf } from '../effect/effects.ts';
import { worstPlace, type PlacedEffect, type WorstPlace } from '../effect/worst.ts';
import { unreadableFinding, type Finding } from '../finding.ts';
import { sub, type Vec3 } from '../math/vec3.ts';
import { own } from '../own.ts';
import { pickSolids } from '../map/pick.ts';
import { hasPart } from '../profile/parts.ts';
import { classOf, type Profile } from '../profile/schema.ts';

const costs = new WeakMap<Effect, { profile: Profile; assets: CrateManifest['assets']; cost: EffectCost }>();

/** Compressed pictures take a byte a pixel, and a third more for their levels. */
const bytesOfPicture =
  (assets: CrateManifest['assets']) =>
  (path: string): number => {
    const { width = 0, height = 0 } = own(assets, path) ?? {};
    return Math.round((width * height * 4) / 3);
  };

/** Played once per effect, however often it is checked. */
export function costInGame(profile: Profile, assets: CrateManifest['assets'], effect: Effect): EffectCost {
  const known = costs.get(effect);
  if (known?.profile === profile && known.assets === assets) return known.cost;
  const cost = costOf(effect, profile.player, undefined, bytesOfPicture(assets));
  costs.set(effect, { profile, assets, cost });
  return cost;
}

/** @param world one whose prefabs are laid out */
export function checkEffects({ crate, profile }: CrateWorld): Finding[] {
  if (!Object.keys(crate.data).some(isEffect)) return [];
  const { effects, problems } = effectsOf(crate.data);
  const used = new Set(
    Object.values(crate.maps).flatMap((map) =>
      Object.values(map.objects).flatMap((object) =>
        (classOf(profile, object.class)?.properties ?? []).flatMap(({ id, type, default: value }) =>
          type === 'effect' ? [String(object.properties[id] ?? value)] : [],
        ),
      ),
    ),
  );
  return [
    ...problems.map((problem) => unreadableFinding(problem, 'assets')),
    ...effects.flatMap(({ effect, path }) =>
      effectFindings(effect, costInGame(profile, crate.manifest.assets, effect), profile.effects, { file: path }),
    ),
    ...effects
      .filter(({ name }) => !used.has(name))
      .map(({ effect, name, path }): Finding => ({
        code: 'effect-unused',
        severity: 'note',
        stage: 'assets',
        message: `${effect.title || name} is in the crate, but no map shows it.`,
        hint: 'It travels with the package all the same. Place an object with it, or remove it.',
        place: { file: path },
      })),
  ];
}

/** What was worst of a map's effects when these were what they are. */
let last: { solids: unknown; placed: PlacedEffect[]; worst: WorstPlace | null } | null = null;

/** @param map one whose prefabs are laid out */
export function checkPlacedEffects({ crate, profile }: CrateWorld, map: GameMap, mapName: string): Finding[] {
  const findings: Finding[] = [];
  const placed: PlacedEffect[] = [];
  for (const [id, object] of Object.entries(map.objects)) {
    if (!hasPart(profile, object.class, 'effect')) continue;
    const name = String(object.properties.effect ?? '');
    if (name === '') continue;
    const effect = effectOf(crate.data, name);
    if (effect) placed.push({ name: object.name, effect, position: object.position, turn: object.turn });
    else if (own(crate.data, effectPath(name)) === undefined)
      findings.push({
        code: 'effect-missing',
        severity: 'warning',
        stage: 'map',
        message: `${object.name} shows the effect "${name}", which there is not.`,
        hint: 'Choose another one in the inspector, or make it.',
        place: { map: mapName, object: id, point: object.position },
      });
  }
  const budget = profile.effects;
  if (!budget || placed.length === 0) return findings;
  const same =
    last?.solids === map.solids &&
    last.placed.length === placed.length &&
    last.placed.every((one, i) => one.effect === placed[i].effect && one.turn === placed[i].turn && one.position === placed[i].position);
  if (!same) {
    const seen = (from: Vec3, to: Vec3) => !pickSolids(map.solids, from, sub(to, from)).some(({ t }) => t < 1);
    last = { solids: map.solids, placed, worst: worstPlace(placed, profile.player, seen) };
  }
  const worst = last!.worst;
  // Several may be seen at once: a map may have as much as two of them.
  if (worst && worst.screens > budget.screens * 2)
    findings.push({
      code: 'effect-worst-place',
      severity: 'warning',
      stage: 'map',
      message: `Effects draw ${worst.screens.toFixed(1)} whole pictures at once where they are worst: beside ${worst.of
        .slice(0, 3)
        .map(({ name, screens }) => `${name} (${screens.toFixed(1)})`)
        .join(', ')}.`,
      hint: `The game wants at most ${budget.screens * 2} of all effects together. Have fewer of them in one view, or give them levels by distance.`,
      place: { map: mapName, point: worst.eye },
    });
  return findings;
}
