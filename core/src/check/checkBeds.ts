/** Findings of sound beds: what is never heard, heard everywhere, too loud, or nowhere. */

import { amplitude } from '../bed/hear.ts';
import { isHeard } from '../bed/schedule.ts';
import type { CrateWorld } from '../crate/world.ts';
import type { GameMap } from '../document/schema.ts';
import type { Finding } from '../finding.ts';
import { areaOf, isSoundArea } from '../map/sound.ts';
import { boxOfPoints } from '../math/box3.ts';
import { own } from '../own.ts';
import { shapeOf } from '../solid/shape.ts';

/** LUFS of all loops of a bed together above which steps and voices drown: common practice for backgrounds. */
const LOUD = -14;
/** Of its amplitude at the farthest place of the map above which an area is heard everywhere. */
const EVERYWHERE = 0.5;

export function checkBeds(world: CrateWorld, map: GameMap, mapName: string): Finding[] {
  const beds = map.settings.beds ?? [];
  const areas = Object.entries(map.objects).filter(([, object]) => isSoundArea(world, object));
  if (beds.length === 0 && areas.length === 0) return [];
  const findings: Finding[] = [];
  const tell = (code: string, severity: Finding['severity'], message: string, hint: string, place: Finding['place'] = {}): void =>
    void findings.push({ code, severity, stage: 'map', message, hint, place: { map: mapName, ...place } });
  const recordOf = (sound: string) => own(world.crate.manifest.assets, sound) ?? own(world.base.assets, sound);
  const moods = map.settings.moods ?? [];
  const names = new Set<string>();
  for (const bed of beds) {
    const { name, loops, shots } = bed;
    if (names.has(name)) tell('bed-name', 'warning', `Two beds are called "${name}".`, 'Areas go by the name: give one of them another.');
    names.add(name);
    if (!areas.some(([, { properties }]) => properties.bed === name))
      tell('bed-unused', 'note', `The bed "${name}" is heard nowhere: no sound area has it.`, 'Place a sound area, or remove the bed.');
    if (loops.length + shots.length === 0)
      tell('bed-soundless', 'warning', `The bed "${name}" has no sounds.`, 'Give it a loop, or a sound now and then.');
    for (const layer of [...loops, ...shots]) {
      if (layer.volume === 0) tell('sound-never', 'warning', `${layer.sound} of the bed "${name}" has no volume.`, 'Give it one, or take it out.');
      else if (moods.length > 0 ? !moods.some((mood) => isHeard(layer, mood, map.settings.place)) : !isHeard(layer, null))
        tell(
          'sound-never',
          'warning',
          `${layer.sound} of the bed "${name}" is never heard: no mood of the map is ${[layer.when, layer.weather].filter((word) => word !== 'always' && word !== 'any').join(' with ')}.`,
          'Change when it is heard, or add a mood.',
        );
    }
    let [power, peak] = [0, 0];
    for (const { sound, volume } of loops) {
      const record = recordOf(sound);
      power += 10 ** ((record?.loudness ?? world.profile.sounds.loudness) / 10) * volume * volume;
      peak += amplitude(record?.truePeak ?? world.profile.sounds.truePeak) * volume;
    }
    if (peak > 1)
      tell(
        'bed-clips',
        'warning',
        `The loops of the bed "${name}" clip where their peaks meet: ${(20 * Math.log10(peak)).toFixed(1)} dB over full scale.`,
        'Lower their volumes.',
      );
    else if (power > 0 && 10 * Math.log10(power) > LOUD)
      tell(
        'bed-loud',
        'warning',
        `The bed "${name}" is ${(10 * Math.log10(power)).toFixed(1)} LUFS loud: steps and voices drown in it.`,
        `Lower its volumes to ${LOUD} LUFS or less.`,
      );
  }
  const corners = Object.values(map.solids).flatMap((solid) => [shapeOf(solid).box.min, shapeOf(solid).box.max]);
  const whole = corners.length > 0 ? boxOfPoints(corners) : null;
  for (const [id, object] of areas) {
    const area = areaOf(world, id, object);
    const place = { object: id, point: object.position };
    if (area.bed !== '' && !names.has(area.bed))
      tell(
        'bed-missing',
        'warning',
        `${object.name} has the bed "${area.bed}", which the map has not.`,
        'Choose another one, or make it in the inspector of the map.',
        place,
      );
    if (!whole) continue;
    const far = Math.hypot(...[0, 1, 2].map((k) => Math.max(area.box.min[k] - whole.min[k], whole.max[k] - area.box.max[k], 0)));
    const share = area.near / (area.near + far);
    if (far > 0 && share > EVERYWHERE)
      tell(
        'sound-everywhere',
        'warning',
        `${object.name} is heard everywhere: ${Math.round(share * 100)} % of it at the other end of the map.`,
        'Lower the distance at which it is half as loud.',
        place,
      );
  }
  return findings;
}
