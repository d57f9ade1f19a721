import { describe, expect, it } from '@jest/globals';
import { loadProfile } from '../profile/load.ts';
import { newCrateContents } from '../crate/template.ts';
import { testProfile } from '../testing/world.ts';
import { profileDifferences, profileTrouble } from './profileChange.ts';
import { listFromCsv, listToCsv } from './profileLists.ts';

const profile = testProfile();

describe('lists of a profile as CSV', () => {
  it.each(['classes', 'api'] as const)('%s go out and come in as they were', (list) => {
    const text = listToCsv(profile, list);
    // RFC 4180, 2.1: each record on a line of its own, ended by CRLF; 2.6: cells with commas or quotes are quoted.
    expect(text.split('\r\n').at(-1)).toBe('');
    expect(listFromCsv(profile, list, text, 'list.csv')).toEqual(profile);
  });

  it('a new class has what the table says, one that is left out goes, and quotes and commas are kept', () => {
    const text =
      'id,label,group,description,icon,parts,size\r\nstart,Start,Play,"Where ""all"" begin, at once",flag,start,16 16 56\r\nbell,Bell,Props,Rings.,bell,,8 8 8\r\n';
    const next = listFromCsv(profile, 'classes', text, 'classes.csv');
    expect(next.classes.map(({ id }) => id)).toEqual(['start', 'bell']);
    expect(next.classes[0]).toMatchObject({
      description: 'Where "all" begin, at once',
      properties: profile.classes.find(({ id }) => id === 'start')!.properties,
    });
    expect(next.classes[1]).toEqual({
      id: 'bell',
      label: 'Bell',
      group: 'Props',
      description: 'Rings.',
      icon: 'bell',
      parts: [],
      size: [8, 8, 8],
      properties: [],
      events: [],
      actions: [],
    });
  });

  it.each([
    ['id,label\r\na,b\r\n', /line 1: there is no column "group"/],
    ['id,label,group,description,icon,parts,size\r\nbell,Bell,P,D,bell,,8 8\r\n', /line 2: the size of "bell" has to be three numbers/],
    ['id,label,group,description,icon,parts,size\r\nbell,"Bell,P,D,bell,,8 8 8\r\n', /line \d: /],
    ['', /line 1: there are no rows/],
  ])('a table that cannot be is refused at its line: %j', (text, reason) => {
    expect(() => listFromCsv(profile, 'classes', text, 'classes.csv')).toThrow(reason);
  });
});

describe('a profile that becomes another', () => {
  it('says what is different, and what of a crate would not be as it should', () => {
    const contents = newCrateContents(profile, { name: 'hall', title: 'Hall', template: 'sealed-room' });
    const next = structuredClone(profile);
    next.classes = next.classes.filter(({ id }) => id !== 'lamp');
    next.player.height = 60;
    expect(profileDifferences(profile, next)).toEqual(['Classes gone: lamp', 'Changed: player']);
    expect(profileTrouble(contents, profile, next)).toEqual(['hall: 1 of class lamp, which is gone']);
    expect([profileDifferences(profile, structuredClone(profile)), profileTrouble(contents, profile, profile)]).toEqual([[], []]);
    const without = structuredClone(profile);
    const lamp = without.classes.find(({ id }) => id === 'lamp')!;
    const [gone] = lamp.properties;
    lamp.properties = lamp.properties.slice(1);
    expect(profileTrouble(contents, profile, without)).toEqual([`hall: 1 with lamp.${gone.id}, which is gone`]);
  });

  it('whose rules or steps lead nowhere is refused', () => {
    const load = (change: (copy: typeof profile) => void) => {
      const copy = structuredClone(profile);
      change(copy);
      return () => loadProfile(JSON.stringify(copy), 'game.json');
    };
    expect(load((copy) => (copy.install.tools[0].rule = 'newer'))).toThrow(/tool "mapkit" has the rule "newer"/);
    expect(load((copy) => (copy.preparation![0].offer = { do: 'run', program: 'nothing' }))).toThrow(/needs the program "nothing"/);
  });
});
