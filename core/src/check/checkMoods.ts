/** Findings of a map's moods: names, switches that lead nowhere, suns that nothing gives. */

import type { CrateWorld } from '../crate/world.ts';
import type { GameMap } from '../document/schema.ts';
import type { Finding } from '../finding.ts';
import { sunsIn } from '../map/sunByDate.ts';
import { lightOfMood } from '../mood/light.ts';
import { hasPart } from '../profile/parts.ts';
import { dayOf } from '../sky/sun.ts';

export function checkMoods({ profile }: CrateWorld, map: GameMap, mapName: string): Finding[] {
  const moods = map.settings.moods ?? [];
  const names = new Set<string>();
  const findings: Finding[] = [];
  const tell = (code: string, severity: Finding['severity'], message: string, hint: string, place: Finding['place'] = {}): void =>
    void findings.push({ code, severity, stage: 'map', message, hint, place: { map: mapName, ...place } });
  for (const { name } of moods) {
    if (names.has(name)) tell('mood-name', 'warning', `Two moods are called "${name}".`, 'Signals go by the name: give one of them another.');
    names.add(name);
  }
  if (map.settings.place && dayOf(map.settings.place.day) === null)
    tell('mood-day', 'warning', `"${map.settings.place.day}" is no day.`, 'Write it as 2024-06-21; until then midsummer is taken.');
  if (moods.some((mood) => lightOfMood(mood, map.settings.place).sun) && sunsIn(profile, map).length === 0)
    tell('mood-sun', 'note', 'Its moods have a sun, but no object of the map gives its light.', 'Place a sun: the moods move it.');
  for (const [id, object] of Object.entries(map.objects)) {
    if (!hasPart(profile, object.class, 'mood')) continue;
    const wanted = [
      String(object.properties.mood ?? ''),
      ...Object.values(map.signals).flatMap(({ to, value }) =>
        'object' in to && to.object === id && to.action === 'change' && value ? [value] : [],
      ),
    ].filter((name, i) => name !== '' || i > 0);
    const gone = wanted.find((name) => !names.has(name));
    if (gone !== undefined)
      tell(
        'mood-missing',
        'warning',
        `${object.name} changes to the mood "${gone}", which the map has not.`,
        'Choose another one, or make it in the inspector of the map.',
        {
          object: id,
          point: object.position,
        },
      );
    else if (wanted.length === 0)
      tell('mood-empty', 'warning', `${object.name} changes to no mood.`, 'Choose one in the inspector, or have its signals bring one.', {
        object: id,
        point: object.position,
      });
  }
  return findings;
}
