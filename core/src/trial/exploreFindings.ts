import type { Finding } from '../finding.ts';
import type { Exploration } from './explore.ts';
import type { TrialInputs } from './world.ts';

const told = (order: readonly string[]): string => (order.length > 0 ? order.slice(-8).join(', ') : 'the start itself');

/**
 * What is to be said of what an explorer found.
 *
 * @param wins whether the map can be won at all
 */
export function exploreFindings({ map }: Pick<TrialInputs, 'map'>, found: Exploration, wins: boolean): Finding[] {
  const findings: Finding[] = [];
  const add = (finding: Omit<Finding, 'stage'>) => findings.push({ ...finding, stage: 'trial' });
  const far = found.complete ? 'everything was tried' : `within ${found.simulated} s of the game`;
  if (wins && !found.won)
    add({
      code: 'explore-not-won',
      severity: 'warning',
      message: `The explorer did not reach the goal (${far}).`,
      hint: found.complete ? 'Look at what it never reached.' : 'Give it more time, or look at what it never reached.',
      place: { map: map.name },
    });
  for (const { order, at } of found.deadEnds)
    add({
      code: 'explore-dead-end',
      severity: 'warning',
      message: `From here the goal cannot be reached any more: after ${told(order)}.`,
      hint: 'Give a way back, or bring back what is needed.',
      place: { map: map.name, point: at },
    });
  for (const { order, at } of found.fell)
    add({
      code: 'explore-lost',
      severity: 'warning',
      message: `The explorer was lost: after ${told(order)}.`,
      hint: 'Close the gap, or place something that the player comes back to.',
      place: { map: map.name, point: at },
    });
  for (const id of found.unreached) {
    const object = map.objects[id];
    add({
      code: 'explore-unreached',
      severity: found.complete ? 'warning' : 'note',
      message: `The explorer never got to ${object.name} (${far}).`,
      hint: 'Try its way yourself: a door that nothing opens, a jump that is too wide, or something that stands in front of it.',
      place: { map: map.name, object: id, point: object.position },
    });
  }
  return findings;
}
