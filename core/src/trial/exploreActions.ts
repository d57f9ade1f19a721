/** All that an explorer can try in a map. */

import { distance } from '../math/vec3.ts';
import { partsOf } from '../profile/parts.ts';
import type { Profile } from '../profile/schema.ts';
import type { RuntimeMap } from '../stages/pack/runtime.ts';

type Kind = 'operate' | 'enter' | 'ride' | 'carry';
export interface Action {
  key: string;
  kind: Kind;
  id: string;
  /** What is carried there. */
  thing?: string;
  /** As people read it. */
  words: string;
}

/** Things that are carried to one volume, the nearest first. */
const CARRIED = 2;

export function actionsOf(profile: Profile, map: Pick<RuntimeMap, 'objects' | 'signals'>): Action[] {
  const heard = new Set(Object.values(map.signals).map((signal) => signal.from));
  const loose = Object.keys(map.objects).filter((id) => {
    const { class: of, properties } = map.objects[id];
    return partsOf(profile, of).some((part) => part.movesFreely?.(properties));
  });
  const list: Action[] = [];
  for (const [id, object] of Object.entries(map.objects)) {
    const parts = partsOf(profile, object.class);
    const wanted = parts.flatMap((part) => part.objective ?? []);
    if (wanted.includes('operate')) list.push({ key: `operate ${id}`, kind: 'operate', id, words: `use ${object.name}` });
    else if (wanted.includes('enter')) {
      const { senses } = object.properties;
      if (senses !== 'things') list.push({ key: `enter ${id}`, kind: 'enter', id, words: `enter ${object.name}` });
      if ((senses === 'things' || senses === 'both') && heard.has(id)) {
        const near = [...loose].sort(
          (a, b) => distance(map.objects[a].position, object.position) - distance(map.objects[b].position, object.position),
        );
        for (const thing of near.slice(0, CARRIED))
          list.push({ key: `carry ${thing} ${id}`, kind: 'carry', id, thing, words: `carry ${map.objects[thing].name} to ${object.name}` });
      }
    } else if (parts.some((part) => part.offset && part.collides?.(object.properties)))
      list.push({ key: `ride ${id}`, kind: 'ride', id, words: `stand on ${object.name}` });
  }
  return list;
}
