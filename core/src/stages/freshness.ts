/** Whether stages still match what they were made from, and if not, what exactly has changed. */

import { BUILD_STAGES, STAGE_NEEDS, STAGE_REVISION, type BuildStage, type StageParts } from './contract/stage.ts';

/** What a build was made from, by stage. */
export interface BuildInputs {
  revisions: Record<string, number>;
  parts: Record<string, StageParts>;
}

export interface Freshness {
  stage: BuildStage;
  fresh: boolean;
  /** Why it is not, in a few words each: "lamp_3 moved". */
  reasons: string[];
}

const VERBS: Record<string, string> = { position: 'moved', turn: 'turned', form: 'changed its form', faces: 'changed' };

/**
 * Names of parts are `what`, or `what|property`; the word after the bar says how it changed. Parts that came or
 * went as a whole are told once, however many properties they have.
 */
export function changesOf(before: StageParts, now: StageParts): string[] {
  const ownerOf = (part: string) => part.split('|')[0];
  const owners = (parts: StageParts) => new Set(Object.keys(parts).map(ownerOf));
  const [old, fresh] = [owners(before), owners(now)];
  const reasons = new Set<string>();
  for (const part of new Set([...Object.keys(before), ...Object.keys(now)])) {
    if (before[part] === now[part]) continue;
    const owner = ownerOf(part);
    const property = part.slice(owner.length + 1);
    if (!old.has(owner)) reasons.add(`${owner} added`);
    else if (!fresh.has(owner)) reasons.add(`${owner} removed`);
    else reasons.add(property ? `${owner} ${VERBS[property] ?? `changed ${property}`}` : `${owner} changed`);
  }
  return [...reasons];
}

/** Compares what a build was made from with what it would be made from now. */
export function freshnessOf(built: BuildInputs, now: BuildInputs): Freshness[] {
  const stale = new Set<BuildStage>();
  return BUILD_STAGES.filter((stage) => Object.hasOwn(now.parts, stage)).map((stage) => {
    const reasons = changesOf(built.parts[stage] ?? {}, now.parts[stage]);
    if (built.revisions[stage] !== STAGE_REVISION[stage]) reasons.unshift('the way it is built is newer');
    for (const need of STAGE_NEEDS[stage]) if (stale.has(need)) reasons.push(`${need} is out of date`);
    if (reasons.length > 0) stale.add(stage);
    return { stage, fresh: reasons.length === 0, reasons };
  });
}
