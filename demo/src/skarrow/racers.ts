/** Who races along Snowgate Ridge, and what their sleds are fitted with. */

import { effectFiles } from '../effects.ts';
import { recordsPath, writeTable, type Row } from '@violet-crate/core/table/document';
import type { Profile } from '@violet-crate/core/profile/schema';
import { portraitPath } from '../portraits.ts';

const kit: Row[] = [
  { id: 'long_runners', name: 'Long runners', mass: 6, kite: 0, grip: 0.12 },
  { id: 'storm_kite', name: 'Storm kite', mass: 3, kite: -1.5, grip: 0 },
  { id: 'calm_kite', name: 'Calm-weather kite', mass: 4, kite: 2, grip: 0 },
  { id: 'keel', name: 'Keel blade', mass: 9, kite: 0, grip: 0.2 },
  { id: 'light_frame', name: 'Light frame', mass: 0, kite: 0, grip: -0.05 },
];

const racer = (id: string, name: string, temper: string, nerve: number, weight: number, fitted: string[]): Row => ({
  id,
  name,
  temper,
  nerve,
  weight,
  kit: fitted,
});

const racers: Row[] = [
  racer('signe', 'Signe Aldwater', 'steady', 1, 68, ['long_runners']),
  racer('orm', 'Orm Tveit', 'careful', 0.85, 88, ['keel']),
  racer('runa', 'Runa Skog', 'bold', 1.02, 61, ['calm_kite', 'light_frame']),
  racer('halvar', 'Halvar Bre', 'reckless', 1.05, 79, ['calm_kite']),
  racer('liv', 'Liv Sandnes', 'steady', 0.97, 64, ['storm_kite', 'long_runners']),
  racer('tore', 'Tore Lund', 'careful', 0.8, 93, ['keel', 'storm_kite']),
].map((row, n) => ({ ...row, portrait: portraitPath(n) }));

export function snowgateData(profile: Profile): Record<string, string> {
  const table = (id: string, rows: Row[]) =>
    [
      recordsPath(id),
      writeTable(
        profile.tables!.find((one) => one.id === id),
        { format: 1, table: id, rows },
      ),
    ] as const;
  return Object.fromEntries([
    table('kit', kit),
    table('racers', racers),
    ...Object.entries(effectFiles(profile, ['snow', 'spindrift', 'smoke', 'lamp_flame'])),
  ]);
}
