import type { Finding } from '../finding.ts';
import { lineOfStep } from '../talk/document.ts';
import { stepWords } from '../talk/run.ts';
import { talksOf } from '../talk/talks.ts';
import type { CoverageData } from './coverage.ts';

/** Steps that are told of one conversation. */
const TOLD = 10;

/** What of conversations no run came by: those that nobody held, and of the others what was never said. */
export function talkFindings(data: Readonly<Record<string, string>>, { said = {} }: Pick<CoverageData, 'said'>): Finding[] {
  const note = (message: string, file: string, line: number): Finding => ({
    code: 'never-said',
    severity: 'note',
    stage: 'trial',
    message,
    hint: 'Record a walk that comes by it.',
    place: { file, line },
  });
  return talksOf(data).talks.flatMap(({ name, path, talk }) => {
    const came = (n: number) => Object.hasOwn(said, `${name} ${n}`);
    const title = talk.title || name;
    if (talk.steps.length > 0 && !talk.steps.some((_, n) => came(n))) return [note(`Nobody ever held the conversation ${title}.`, path, 1)];
    const never = talk.steps.flatMap((step, n) => ((step.do === 'say' || step.do === 'contest') && !came(n) ? [{ step, n }] : []));
    const findings = never
      .slice(0, TOLD)
      .map(({ step, n }) => note(`${title}, step ${n + 1} was never come by: “${stepWords(step).slice(0, 60)}”.`, path, lineOfStep(n)));
    return never.length > TOLD ? [...findings, note(`${title}: ${never.length - TOLD} more steps were never come by.`, path, 1)] : findings;
  });
}
