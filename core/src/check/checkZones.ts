/** Findings of zones: their uses, pictures, ids and pairs, and whether what leaves them has room. */

import type { CrateWorld } from '../crate/world.ts';
import type { GameMap, MapObject } from '../document/schema.ts';
import type { Finding } from '../finding.ts';
import { boxesTouch, type Box3 } from '../math/box3.ts';
import type { BoxGrid } from '../math/boxGrid.ts';
import { own } from '../own.ts';
import { hasPart } from '../profile/parts.ts';
import type { Profile } from '../profile/schema.ts';
import { valueOf } from '../profile/valueOf.ts';
import { groundBelow, groundsOf, type Ground } from '../terrain/ground.ts';
import { solidGrid } from './solidGrid.ts';

/** @param map one whose prefabs are laid out */
export function checkZones({ profile }: Pick<CrateWorld, 'profile'>, map: GameMap, mapName: string): Finding[] {
  const uses = profile.zoneUses;
  if (!uses) return [];
  const zones = Object.entries(map.objects).filter(([, object]) => hasPart(profile, object.class, 'zone'));
  const byCode = new Map<string, string[]>();
  const findings: Finding[] = [];
  const grounds = groundsOf(map);
  const solids = solidGrid(profile, map);
  for (const [id, object] of zones) {
    const place = { map: mapName, object: id, point: object.position };
    const use = uses.find((one) => one.id === valueOf(profile, object, 'use'));
    const code = String(object.properties.code ?? '');
    if (code !== '') byCode.set(code, [...(byCode.get(code) ?? []), id]);
    if (!use) {
      findings.push({
        code: 'zone-no-use',
        severity: 'warning',
        stage: 'map',
        message: `${object.name} has no use that ${profile.title} knows.`,
        hint: `Uses: ${uses.map(({ label }) => label).join(', ')}.`,
        place,
      });
      continue;
    }
    if (use.icon && !valueOf(profile, object, 'icon'))
      findings.push({
        code: 'zone-no-icon',
        severity: 'warning',
        stage: 'map',
        message: `${object.name} stands on the player’s map as ${use.label}, but has no picture.`,
        hint: `Choose a symbol, or a texture with a side of ${(profile.mapIcons ?? [32]).join(' or ')} pixels.`,
        place,
      });
    if (use.partner) findings.push(...partnerFindings(profile, map, object, use, uses, place));
    if (use.leaves) {
      const wall = facesWall(profile, solids, grounds, object);
      if (wall)
        findings.push({
          code: 'zone-faces-wall',
          severity: 'warning',
          stage: 'map',
          message: `${object.name} leads ${wall}: a vehicle that leaves it there does not fit.`,
          hint: 'Turn it, or make room before it.',
          place,
        });
    }
  }
  for (const [code, ids] of byCode)
    if (ids.length > 1)
      findings.push({
        code: 'zone-twice',
        severity: 'blocker',
        stage: 'map',
        message: `${ids.map((id) => map.objects[id].name).join(' and ')} both have the id ${code}.`,
        hint: 'The game finds only one of them.',
        place: { map: mapName, object: ids[1], point: map.objects[ids[1]].position },
      });
  return findings;
}

type Use = NonNullable<Profile['zoneUses']>[number];

/** A pair names each other, and one is what the other wants. */
function partnerFindings(profile: Profile, map: GameMap, object: MapObject, use: Use, uses: readonly Use[], place: Finding['place']): Finding[] {
  const wanted = uses.find(({ id }) => id === use.partner);
  const partner = own(map.objects, String(object.properties.partner ?? ''));
  if (!partner)
    return [
      {
        code: 'zone-alone',
        severity: 'warning',
        stage: 'map',
        message: `${object.name} is an ${use.label.toLowerCase()} without its ${wanted?.label.toLowerCase() ?? 'partner'}.`,
        hint: 'Choose the other zone as its partner.',
        place,
      },
    ];
  if (valueOf(profile, partner, 'use') === use.partner) return [];
  return [
    {
      code: 'zone-wrong-partner',
      severity: 'warning',
      stage: 'map',
      message: `${object.name} is paired with ${partner.name}, which is no ${wanted?.label.toLowerCase() ?? use.partner}.`,
      place,
    },
  ];
}

/** Lengths of a vehicle that have to be free before a zone. */
const FREE = 2;

/** What a vehicle that leaves a zone along its arrow runs into; null where it has room. */
function facesWall(profile: Profile, solids: BoxGrid<Box3>, grounds: readonly Ground[], zone: MapObject): string | null {
  const [length, width, height] = vehicleSize(profile);
  const angle = (zone.turn * Math.PI) / 180;
  for (let step = 0; step <= FREE * 4; step++) {
    const far = (length / 4) * step;
    const [x, y] = [zone.position[0] + Math.cos(angle) * far, zone.position[1] + Math.sin(angle) * far];
    const ground = groundBelow(grounds, x, y);
    if (grounds.length > 0 && !ground) return 'off the ground';
    const foot = ground?.height ?? zone.position[2];
    const box: Box3 = { min: [x - width / 2, y - width / 2, foot + height * 0.3], max: [x + width / 2, y + width / 2, foot + height] };
    if (solids.near(box).some((solid) => boxesTouch(box, solid))) return 'into a wall';
    if (ground && ground.ground.normalAt(x, y)[2] < Math.cos((50 * Math.PI) / 180)) return 'into a slope that is too steep';
  }
  return null;
}

/** The largest vehicle of a game; the player where it has none. */
function vehicleSize(profile: Profile): [number, number, number] {
  const { classes, player } = profile;
  const sizes = classes.filter(({ id }) => hasPart(profile, id, 'vehicle')).map(({ size }) => size);
  return sizes.sort((a, b) => b[0] - a[0])[0] ?? [player.radius * 2, player.radius * 2, player.height];
}
