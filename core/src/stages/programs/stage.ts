/** The last stage: programs of the game look a built map over and add their files to it. Who runs the build brings what can run them. */

import type { FileTree } from '../../crate/fileTree.ts';
import { unreadableFinding, type Finding } from '../../finding.ts';
import type { Program } from '../../profile/toolchain.ts';
import { UnreadableInput } from '../../unreadable.ts';

export interface ProgramsInputs {
  programs: Program[];
}

/**
 * Runs a program on files of its own: `given` by path below its `{in}`.
 *
 * @throws UnreadableInput where it cannot be run, or does not do what it should
 */
export type RunProgram = (
  program: Program,
  given: FileTree,
  map: string,
  onProgress: (fraction: number) => void,
) => Promise<{ outputs: FileTree; findings: Finding[]; lines: string[] }>;

export interface ProgramsOutput {
  /** `maps/NAME/…` for every file that they wrote. */
  files: FileTree;
  findings: Finding[];
  ran: string[];
}

/** One after the other, as the profile has them; one that fails is a blocker, and those behind it are left out. */
export async function runPrograms(
  { programs }: ProgramsInputs,
  map: string,
  given: FileTree,
  run: RunProgram,
  onProgress: (fraction: number) => void,
): Promise<ProgramsOutput> {
  const output: ProgramsOutput = { files: new Map(), findings: [], ran: [] };
  for (const [i, program] of programs.entries()) {
    try {
      const { outputs, findings } = await run(program, given, map, (fraction) => onProgress((i + fraction) / programs.length));
      for (const [path, bytes] of outputs) output.files.set(`maps/${map}/${path}`, bytes);
      output.findings.push(...findings.map((finding) => ({ ...finding, place: { ...finding.place, map } })));
      output.ran.push(program.title);
      if (findings.some(({ severity }) => severity === 'blocker')) break;
    } catch (error) {
      if (!(error instanceof UnreadableInput)) throw error;
      output.findings.push({ ...unreadableFinding(error, 'build'), place: { ...error.place, map } });
      break;
    }
  }
  return output;
}
