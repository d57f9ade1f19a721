/** Findings of conversations: contests and what they need said, names of anything that is not there, ways that do not end, and what is remembered. */

import { findFile, type CrateWorld } from '../crate/world.ts';
import { nameProblem } from '../crate/naming.ts';
import { unreadableFinding, type Finding } from '../finding.ts';
import { own } from '../own.ts';
import { globalFunctions } from '../script/check.ts';
import { Tables } from '../table/tables.ts';
import { endOfBlock, isTalk, lineOfStep, MEMORY_PATH, talkName, textsOf, type StepOf, type TalkStep } from '../talk/document.ts';
import { memoryLedger } from './memoryLedger.ts';
import { pathsThrough } from '../talk/paths.ts';
import { finalContests, stepWords } from '../talk/run.ts';
import { rememberedOf, talksOf, type NamedTalk } from '../talk/talks.ts';
import { wrapText } from '../talk/wrap.ts';

export function checkTalk(world: CrateWorld): Finding[] {
  const { profile, crate } = world;
  const { talks, problems } = talksOf(crate.data);
  const findings = problems.map((problem) => unreadableFinding(problem, 'scripts'));
  const tables = new Tables(profile.tables ?? [], crate.data);
  const { all, problem } = rememberedOf(profile.memory, crate.data);
  if (problem) findings.push(unreadableFinding(problem, 'scripts'));
  const ledger = memoryLedger(talks, crate.scripts, all);
  const settable = new Set([...ledger].flatMap(([name, { uses }]) => (uses.some(({ does }) => does === 'set') ? [name] : [])));
  for (const { name } of profile.memory?.game ?? []) settable.add(name);
  const context: Context = {
    world,
    tables,
    functions: new Set([...globalFunctions(crate.scripts), ...profile.scripts.api.map(({ name }) => name)]),
    sequences: new Set(Object.values(crate.maps).flatMap((map) => Object.values(map.sequences).map(({ name }) => name))),
    people: new Set(Object.values(crate.maps).flatMap((map) => Object.values(map.objects).map(({ name }) => name))),
  };
  for (const path of Object.keys(crate.data).filter(isTalk)) {
    const wrong = nameProblem(profile, 'file', talkName(path));
    if (wrong) findings.push({ code: 'file-name', severity: 'blocker', stage: 'scripts', message: `File ${path}: ${wrong}`, place: { file: path } });
  }
  const held = talksHeld(world);
  for (const { name, path, talk } of talks)
    if (!held(name))
      findings.push({
        code: 'talk-unused',
        severity: 'note',
        stage: 'scripts',
        message: `${talk.title || path}: nobody holds this conversation.`,
        hint: 'Give it to a person of a map, or have a signal or a script begin it.',
        place: { file: path },
      });
  for (const named of talks) findings.push(...checkSteps(context, named), ...checkPaths(named, settable, finalContests(profile.contests)));
  findings.push(...checkMemory(world, ledger, all));
  return findings;
}

/** Whether anything begins a conversation: a property, the value of a signal, or a text of a script. */
function talksHeld({ profile, crate }: CrateWorld): (name: string) => boolean {
  const named = new Set<string>();
  for (const map of Object.values(crate.maps)) {
    for (const { value } of Object.values(map.signals)) if (value !== undefined) named.add(value);
    for (const object of Object.values(map.objects))
      for (const property of profile.classes.find(({ id }) => id === object.class)?.properties ?? [])
        if (property.type === 'talk') named.add(String(object.properties[property.id] ?? ''));
  }
  return (name) => named.has(name) || Object.values(crate.scripts).some((source) => source.includes(`"${name}"`));
}

interface Context {
  world: CrateWorld;
  tables: Tables;
  functions: ReadonlySet<string>;
  sequences: ReadonlySet<string>;
  people: ReadonlySet<string>;
}

function checkSteps({ world, tables, functions, sequences, people }: Context, { path, talk }: NamedTalk): Finding[] {
  const { profile } = world;
  const findings: Finding[] = [];
  const labels = new Map<string, number>();
  talk.steps.forEach((step, n) => void (step.do === 'label' && !labels.has(step.name) && labels.set(step.name, n)));
  const known = (key: string) => [...tables].some(({ byKey }) => byKey.has(key));
  talk.steps.forEach((step, n) => {
    const tell = (code: string, severity: Finding['severity'], words: string, hint?: string, to?: TalkStep | null): void =>
      void findings.push({
        code,
        severity,
        stage: 'scripts',
        message: `${talk.title || path}, step ${n + 1}: ${words}.`,
        ...(hint ? { hint } : {}),
        place: { file: path, line: lineOfStep(n) },
        ...(to === undefined
          ? {}
          : {
              fix: {
                kind: 'line',
                label: to === null ? 'Take the step out' : 'Set it right',
                file: path,
                line: lineOfStep(n),
                was: JSON.stringify(step),
                to: to === null ? null : JSON.stringify(to),
              },
            }),
      });
    switch (step.do) {
      case 'say':
        if (step.who !== '' && !known(step.who) && !people.has(step.who))
          tell('talk-speaker', 'warning', `"${step.who}" is neither a row of a table nor an object`, 'Choose who says it.');
        if (step.text.trim() === '') tell('talk-empty', 'warning', 'nothing is said', 'Write it, or take the step out.', null);
        break;
      case 'choose': {
        const options = optionsOf(talk.steps, n);
        if (options === 0)
          tell('talk-options', 'blocker', 'there is nothing to choose from, and the game would wait for ever', 'Add an option below it.', null);
        else if (profile.speech && options > profile.speech.choices)
          tell(
            'talk-options',
            'blocker',
            `${options} can be chosen from; the game shows ${profile.speech.choices}`,
            'What is too much is never seen.',
          );
        break;
      }
      case 'contest':
        checkContest(profile.contests ?? [], step, tell);
        if (!known(step.against)) tell('talk-row', 'blocker', `there is no row "${step.against}" to contend with`, 'Choose one that is in a table.');
        break;
      case 'go':
        if (!labels.has(step.to)) tell('talk-label', 'blocker', `there is no label "${step.to}" to go to`, 'Add the label, or choose another.');
        break;
      case 'label':
        if (labels.get(step.name) !== n)
          tell('talk-label', 'blocker', `the label "${step.name}" is there twice; the first counts`, 'Give one of them another name.');
        break;
      case 'call':
        if (!functions.has(step.function))
          tell('talk-function', 'blocker', `there is no function ${step.function}()`, 'Write it under Scripts, or choose another.');
        break;
      case 'move':
        if (!sequences.has(step.sequence))
          tell('talk-sequence', 'blocker', `no map has a movement sequence "${step.sequence}"`, 'Draw it in the map, or choose another.');
        else if (!step.wait && goesOnTalking(talk.steps, n))
          tell('talk-no-wait', 'note', `the talk goes on while ${step.sequence} is under way`, 'Wait until it is done, unless that is meant.', {
            ...step,
            wait: true,
          });
        break;
      case 'turn':
        for (const who of [step.who, step.to])
          if (who !== '' && !people.has(who) && !known(who)) tell('talk-person', 'warning', `there is nobody called "${who}"`);
        break;
      case 'sound':
        if (!findFile(world, step.sound))
          tell('talk-sound', 'blocker', `there is no sound ${step.sound || 'chosen'}`, 'Import it, or choose another.');
        break;
    }
    if (step.do === 'say' && step.voice && !findFile(world, step.voice))
      tell('talk-sound', 'blocker', `there is no voice ${step.voice}`, 'Import it, or choose another.');
    if (profile.speech) checkTexts(profile.speech, step, tell);
  });
  return findings;
}

type Tell = (code: string, severity: Finding['severity'], words: string, hint?: string, to?: TalkStep | null) => void;

/** A game that expects four texts reads four, whatever is there. */
function checkContest(
  types: readonly { id: string; label: string; texts: readonly { id: string; label: string }[] }[],
  step: StepOf<'contest'>,
  tell: Tell,
): void {
  const type = types.find(({ id }) => id === step.contest);
  if (!type)
    return tell('talk-contest', 'blocker', `the game has no contest "${step.contest}"`, `It has ${types.map(({ id }) => id).join(', ') || 'none'}.`);
  const lacks = type.texts.filter(({ id }) => (own(step.texts, id) ?? '').trim() === '');
  if (lacks.length > 0)
    tell(
      'talk-contest-text',
      'blocker',
      `${type.label} needs ${lacks.map(({ label }) => `the text “${label}”`).join(' and ')}`,
      'Without it the game reads on into what comes after, and hangs.',
    );
  const extra = Object.keys(step.texts).filter((id) => !type.texts.some((text) => text.id === id));
  if (extra.length > 0)
    tell('talk-contest-text', 'blocker', `${type.label} has no text ${extra.join(', ')}`, 'The game would take it for something else.', {
      ...step,
      texts: Object.fromEntries(Object.entries(step.texts).filter(([id]) => !extra.includes(id))),
    });
}

function checkTexts(speech: { letters?: string; line: number; languages?: string[] }, step: TalkStep, tell: Tell): void {
  for (const { text, other } of textsOf(step))
    for (const [language, words] of [['', text], ...Object.entries(other)]) {
      const lacks =
        speech.letters === undefined ? [] : [...new Set([...words].filter((letter) => letter !== '\n' && !speech.letters!.includes(letter)))];
      const where = language === '' ? '' : ` (${language})`;
      if (lacks.length > 0)
        tell(
          'talk-letters',
          'warning',
          `the game cannot show ${lacks
            .slice(0, 5)
            .map((letter) => `"${letter}"`)
            .join(', ')}${where}`,
        );
      const { tooLong } = wrapText(words, speech.line, 1);
      if (tooLong.length > 0)
        tell('talk-word-long', 'warning', `"${tooLong[0]}" is longer than a line of ${speech.line} characters${where}`, 'The game cuts it.');
    }
}

function optionsOf(steps: readonly TalkStep[], n: number): number {
  let count = 0;
  for (let i = n + 1, end = endOfBlock(steps, n); i < end; i++) if (steps[i].depth === steps[n].depth + 1) count++;
  return count;
}

const goesOnTalking = (steps: readonly TalkStep[], n: number): boolean => {
  const next = steps[n + 1];
  return next !== undefined && next.depth === steps[n].depth && (next.do === 'say' || next.do === 'choose' || next.do === 'contest');
};

function checkPaths({ path, talk }: NamedTalk, settable: ReadonlySet<string>, final: ReadonlySet<string>): Finding[] {
  const { reached, stuck, whole } = pathsThrough(talk, settable, final);
  const findings: Finding[] = stuck.slice(0, 3).map(({ step, flags }) => ({
    code: 'talk-endless',
    severity: 'blocker',
    stage: 'scripts',
    message: `${talk.title || path}: from step ${step + 1} on it cannot end${flags.length > 0 ? ` while ${flags.join(' and ')} ${flags.length === 1 ? 'is' : 'are'} set` : ''}.`,
    hint: 'Give it an option or a branch that leads out.',
    place: { file: path, line: lineOfStep(step) },
  }));
  if (!whole) return findings;
  const never = talk.steps.flatMap((step, n) => (reached.has(n) ? [] : [{ step, n }]));
  // What stands below a step that is never come to is never come to either.
  for (const { step, n } of never
    .filter(({ n: at }) => reached.has(at - 1) || at === 0 || talk.steps[at].depth <= talk.steps[at - 1].depth)
    .slice(0, 20))
    findings.push({
      code: 'talk-unreached',
      severity: 'warning',
      stage: 'scripts',
      message: `${talk.title || path}, step ${n + 1}: "${stepWords(step).slice(0, 60)}" is never come to.`,
      hint: 'Nothing sets what it asks for, or what stands before it always leads elsewhere.',
      place: { file: path, line: lineOfStep(n) },
    });
  return findings;
}

function checkMemory(
  { profile }: CrateWorld,
  ledger: ReturnType<typeof memoryLedger>,
  all: readonly { name: string; number: number; kind: 'flag' | 'value'; label: string }[],
): Finding[] {
  const findings: Finding[] = [];
  const { memory } = profile;
  const tell = (code: string, severity: Finding['severity'], message: string, hint: string, place: Finding['place'] = { file: MEMORY_PATH }) =>
    void findings.push({ code, severity, stage: 'scripts', message, hint, place });
  const declared = new Map(all.map((one) => [one.name, one]));
  const byNumber = new Map<string, string>();
  const games = new Set(memory?.game.map(({ name }) => name));
  for (const { name, number, kind } of all) {
    const key = `${kind} ${number}`;
    const other = byNumber.get(key);
    if (other !== undefined)
      tell(
        'memory-number',
        'blocker',
        `The ${kind}s ${other} and ${name} both have the number ${number}.`,
        'One would overwrite the other; give it a free number.',
      );
    byNumber.set(key, name);
    const range = kind === 'flag' ? memory?.flags : memory?.values;
    if (range && !games.has(name) && (number < range[0] || number > range[1]))
      tell(
        'memory-range',
        'blocker',
        `The ${kind} ${name} has the number ${number}; crates have ${range[0]} to ${range[1]}.`,
        'What is beyond belongs to the game.',
      );
  }
  for (const [name, { kind, uses }] of ledger) {
    const first = uses[0];
    const place = first && (first.step === undefined ? { file: first.path, line: first.line } : { file: first.path, line: lineOfStep(first.step) });
    const known = declared.get(name);
    if (!known && memory) {
      tell('memory-unknown', 'blocker', `Nothing says which number the ${kind} ${name} has.`, 'Add it to what the crate remembers.', place);
      continue;
    }
    if (known && known.kind !== kind)
      tell('memory-kind', 'blocker', `${name} is a ${known.kind}, and is used as a ${kind}.`, 'Choose another name for one of them.', place);
    if (games.has(name)) continue;
    const does = (what: string) => uses.some((use) => use.does === what);
    if (uses.length === 0) tell('memory-unused', 'note', `The ${kind} ${name} is neither set nor read.`, 'Use it, or take it away.');
    else if (!does('set') && does('read'))
      tell('memory-never-set', 'warning', `The ${kind} ${name} is read, but nothing ever sets it.`, 'What depends on it never happens.', place);
    else if (does('set') && !does('read'))
      tell('memory-never-read', 'note', `The ${kind} ${name} is set, but nothing ever reads it.`, 'It changes nothing.', place);
  }
  return findings;
}
