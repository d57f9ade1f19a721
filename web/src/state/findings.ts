/** All findings of the open crate from all their sources, in one list. */

import { createSelector } from '@reduxjs/toolkit';
import { sortFindings, type Finding, type Stage } from '@violet-crate/core/finding';
import { isActive } from './jobsSlice.ts';
import type { GameChange } from '@violet-crate/core/setup/gameChange';
import type { Build, FolderState, ImportedFile, SetupCheck, StepState, WatchState } from '../api/types.ts';
import type { RootState } from './store.ts';
import type { TrialRunState } from './trialRunSlice.ts';

const setupFinding = (check: SetupCheck): Finding => ({
  code: `setup-${check.id}`,
  severity: check.severity,
  stage: 'setup',
  message: `${check.title}: no. ${check.detail}`,
  hint: check.hint,
  fix: check.fix ? { kind: 'setup', label: check.fix.label, action: check.fix.action } : undefined,
});

const stepFinding = ({ step }: StepState): Finding => ({
  code: `setup-step-${step.id}`,
  severity: step.concerns.length > 0 ? 'warning' : 'note',
  stage: 'setup',
  message: `Not done yet: ${step.title}.`,
  hint: step.why,
  fix: step.offer ? { kind: 'setup', label: 'Do it for me', action: `step:${step.id}` } : undefined,
});

const changeFinding = (change: GameChange): Finding => ({
  code: 'setup-game-changed',
  severity: 'warning',
  stage: 'setup',
  message: change.message,
  hint: 'Look the crate over with the game as it is now, then say under Set-up that you have seen it.',
});

function* folderFindings({ folder, problem, conflicts, refused }: FolderState): Generator<Finding> {
  const about = { stage: 'setup' as const, code: 'setup-folder' };
  if (problem) yield { ...about, severity: 'warning', message: `The crate and its folder ${folder} are not kept equal. ${problem}` };
  for (const { what } of conflicts)
    yield {
      ...about,
      code: 'setup-folder-conflict',
      severity: 'warning',
      message: what,
      hint: 'Settle it under Set-up; both versions are kept until then.',
    };
  for (const { path, reason } of refused)
    yield { ...about, code: 'setup-folder-file', severity: 'warning', message: `${path} in the folder is not taken: ${reason}` };
}

const diedFinding = (what: string): Finding => ({
  code: 'checks-died',
  severity: 'warning',
  stage: 'map',
  message: `The ${what} of this crate broke off twice, so what they would find is not listed.`,
  hint: 'Undo the last change, or open the page again. If it stays so, tell us with an export of the crate.',
});

const staleFinding = ({ asset, file }: WatchState['stale'][number]): Finding => ({
  code: 'asset-stale',
  severity: 'warning',
  stage: 'assets',
  message: `${file} has changed since ${asset} was made of it.`,
  place: { file: asset },
  fix: { kind: 'reimport', label: 'Import changed files again' },
});

export const selectFindings = createSelector(
  [
    (s: RootState) => s.crate.setup,
    (s: RootState) => s.crate.steps,
    (s: RootState) => s.crate.gameChange,
    (s: RootState) => s.crate.updates,
    (s: RootState) => s.crate.folder,
    (s: RootState) => s.crate.view,
    (s: RootState) => s.checks.findings,
    (s: RootState) => s.checks.trial,
    (s: RootState) => s.checks.died,
    (s: RootState) => s.crate.packages,
    (s: RootState) => s.jobs.byId,
    (s: RootState) => s.crate.watch,
  ],
  (setup, steps, change, updates, folder, view, checked, trial, died, packages, jobs, watch): Finding[] => {
    const all: Finding[] = [
      ...(setup ?? []).filter((check) => !check.ok).map(setupFinding),
      ...steps.filter(({ done }) => !done).map(stepFinding),
      ...(change ? [changeFinding(change)] : []),
      ...updates,
      ...(folder ? folderFindings(folder) : []),
      ...(view?.files ?? []).flatMap((file) => file.findings),
      ...checked,
      ...trial,
      ...died.map(diedFinding),
      ...(watch?.stale ?? []).map(staleFinding),
      ...(packages?.[0]?.fresh ? packages[0].findings : []),
    ];
    // A failed conversion leaves no file behind, so its finding lives with its batch until the file was tried again.
    const conversions = Object.values(jobs)
      .filter((job) => job.kind === 'convert' && job.crateId === view?.id)
      .sort((a, b) => (a.createdAt < b.createdAt ? 1 : -1));
    const tried = new Set<string>();
    for (const job of conversions) {
      const files = (job.result?.files as ImportedFile[] | undefined) ?? [];
      const fresh = files.filter((file) => !tried.has(file.file));
      for (const file of fresh) if (file.error) all.push(file.error);
      // A single file's batch is named after it.
      const label = job.label.replace(/^Convert /, '');
      if (job.state === 'failed' && job.error && !tried.has(label) && !fresh.some((file) => file.error)) all.push(job.error);
      tried.add(label);
      for (const file of files) tried.add(file.file);
    }
    const seen = new Set<string>();
    return sortFindings(
      all.filter((finding) => {
        const key = `${finding.code}/${finding.message}`;
        return !seen.has(key) && seen.add(key);
      }),
    );
  },
);

export type StampKind = 'clear' | 'notes' | 'blocked' | 'stale' | 'running' | 'open';

export interface Stamp {
  kind: StampKind;
  word: string;
  count: number;
}

export const STAMP_ICONS: Record<StampKind, string> = {
  clear: 'check-circle',
  notes: 'exclamation-triangle',
  blocked: 'x-octagon',
  stale: 'clock-history',
  running: 'arrow-repeat',
  open: 'circle',
};

const stamp = (kind: StampKind, word: string, count = 0): Stamp => ({ kind, word, count });

function byFindings(findings: readonly Finding[], stage: Stage): Stamp {
  const own = findings.filter((finding) => finding.stage === stage);
  const blockers = own.filter((finding) => finding.severity === 'blocker').length;
  if (blockers > 0) return stamp('blocked', 'blocked', blockers);
  if (own.length > 0) return stamp('notes', own.some((f) => f.severity === 'warning') ? 'warnings' : 'notes', own.length);
  return stamp('clear', 'clear');
}

/** A run counts for the build that was walked through, while that build is fresh. */
function trialStamp(findings: readonly Finding[], run: TrialRunState, build: Build | undefined): Stamp {
  if (findings.some((f) => f.stage === 'trial')) return byFindings(findings, 'trial');
  if (!run.buildId || !build?.fresh || run.buildId !== build.id)
    return stamp('open', run.buildId && run.buildId === build?.id ? 'run again' : 'not run');
  return run.ended === 'fell' || run.ended === 'died' ? stamp('blocked', run.ended) : stamp('clear', 'clear');
}

/** The true state of every stage, from what is known now. */
export const selectStamps = createSelector(
  [
    selectFindings,
    (s: RootState) => s.crate,
    (s: RootState) => s.jobs.byId,
    (s: RootState) => s.checks.running,
    (s: RootState) => s.map.unsaved.length > 0,
    (s: RootState) => s.trialRun,
  ],
  (findings, crate, jobs, checking, unsaved, trialRun): Record<Stage, Stamp> => {
    const active = Object.values(jobs).filter((job) => job.crateId === crate.view?.id && isActive(job));
    const running = (kind: string) => active.some((job) => job.kind === kind);
    const build = crate.builds?.[0];
    const checkedStage = (stage: Stage) => (checking && stage === 'map' ? stamp('running', 'checking') : byFindings(findings, stage));
    const release = crate.releases?.[0];
    const pack = crate.packages?.[0];
    const interrupted =
      Object.values(jobs)
        .filter((job) => job.kind === 'build' && job.crateId === crate.view?.id)
        .sort((a, b) => (a.createdAt < b.createdAt ? 1 : -1))[0]?.state === 'interrupted';
    const leak = findings.some((finding) => finding.stage === 'build' && finding.severity === 'blocker');
    return {
      setup: crate.setup ? byFindings(findings, 'setup') : stamp('running', 'looking'),
      assets: running('convert') ? stamp('running', 'converting') : byFindings(findings, 'assets'),
      scripts: checkedStage('scripts'),
      map: checkedStage('map'),
      links: checkedStage('links'),
      build: running('build')
        ? stamp('running', 'building')
        : leak
          ? byFindings(findings, 'build')
          : interrupted
            ? stamp('stale', 'interrupted')
            : !build
              ? stamp('open', 'not built')
              : !build.ok
                ? stamp('blocked', 'stopped')
                : !build.fresh || unsaved
                  ? stamp('stale', 'stale')
                  : byFindings(findings, 'build'),
      trial: trialStamp(findings, trialRun, build),
      publish: running('pack')
        ? stamp('running', 'packing')
        : !pack
          ? stamp('open', 'no package')
          : !pack.fresh
            ? stamp('stale', 'stale')
            : release?.packageId === pack.id
              ? stamp('clear', 'published')
              : stamp('open', 'packed'),
    };
  },
);
