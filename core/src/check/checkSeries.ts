import type { GameMap } from '../document/schema.ts';
import type { Finding } from '../finding.ts';
import { renumber, seriesOf, seriesProblems } from '../map/series.ts';
import type { Profile } from '../profile/schema.ts';

/** Ordinals that are missing or carried twice, with renumbering as their fix. */
export function checkSeries(map: GameMap, mapName: string, profile: Profile): Finding[] {
  const findings: Finding[] = [];
  for (const { id: classId, label, series } of profile.classes) {
    if (!series) continue;
    const members = seriesOf(map, profile, classId);
    const { gaps, duplicates } = seriesProblems(members);
    if (gaps.length === 0 && duplicates.length === 0) continue;
    const edit = renumber(
      map,
      profile,
      classId,
      members.map((m) => m.id),
    );
    const fix: Finding['fix'] = edit ? { kind: 'edit', label: 'Renumber from 0', edit } : undefined;
    for (const { ordinal, members: same } of duplicates)
      findings.push({
        code: 'series-twice',
        severity: 'blocker',
        stage: 'map',
        message: `${label}: ordinal ${ordinal} is carried by ${same.map((m) => m.name).join(' and ')}.`,
        hint: 'The game takes them in order of their ordinals, each once.',
        place: { map: mapName, object: same[1].id },
        fix,
      });
    if (gaps.length > 0)
      findings.push({
        code: 'series-gap',
        severity: 'blocker',
        stage: 'map',
        message: `${label}: ${gaps.length === 1 ? `ordinal ${gaps[0]} is` : `ordinals ${gaps.slice(0, 5).join(', ')} are`} missing; the game stops there.`,
        hint: 'Ordinals begin at 0 and leave none out.',
        place: { map: mapName, object: members[members.length - 1].id },
        fix,
      });
  }
  return findings;
}
