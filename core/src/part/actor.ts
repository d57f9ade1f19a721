import { numberOf, type Part } from './part.ts';

/** `hidden`: not there at present; `seeing`: whether it sees a player. Where it goes is `trial/people.ts`. */
export const actor: Part<{ hidden: boolean; seeing: boolean }> = {
  id: 'actor',
  says: 'a person: `record` is its row, it `moves` in one of four manners, sees so many steps of `sight` within a `cone`, and holds the `talk` with whoever operates it',
  reads: ['record', 'moves', 'path', 'area', 'speed', 'sight', 'cone', 'talk', 'hidden'],
  placing: 'floor',
  person: true,
  collides: (properties) => properties.hidden !== true,
  begin: (properties) => ({ hidden: properties.hidden === true, seeing: false }),
  gone: ({ state }) => state.hidden,
  live: ({ seeing, hidden }) => ({ seeing: Number(seeing), hidden: Number(hidden) }),
  actions: {
    show: ({ state }) => void (state.hidden = false),
    hide: ({ state }) => void (state.hidden = true),
    talk: ({ item, host }, value) => host.person(item, 'talk', value),
    follow: ({ item, host }) => host.person(item, 'follow', null),
    stay: ({ item, host }) => host.person(item, 'stay', null),
    play: ({ item, host }, value) => host.person(item, 'play', value),
  },
  used: ({ item, host }) => {
    if (item.properties.talk) host.person(item, 'talk', null);
  },
};

/** Units per second at which somebody walks. */
export const paceOf = (properties: Readonly<Record<string, unknown>>, walkSpeed: number): number =>
  numberOf(properties.speed as number) > 0 ? numberOf(properties.speed as number) : walkSpeed * 0.6;
