import { existsSync, rmSync } from 'node:fs';
import { readMap } from '@violet-crate/core/crate/readMap';
import { conflictsFile, mergeMaps } from '@violet-crate/core/document/merge';
import { serialiseMap } from '@violet-crate/core/document/serialise';
import { writeWhole } from '@violet-crate/host/files';
import type { Command } from '../command.ts';
import { readText } from '../readInput.ts';

const encode = (text: string) => new TextEncoder().encode(text);

export const mergeMapCommand: Command = {
  summary: 'Merge two versions of a map that come of the same one, member by member; OURS becomes both. Made for git’s merge driver.',
  usage: 'crate merge-map BASE OURS THEIRS [--path FILE]',
  options: { path: { value: 'FILE', summary: 'path of the map in its folder, beside which conflicts are told (git’s %P)' } },
  arguments: [3, 3],
  run([baseFile, oursFile, theirsFile], options) {
    const read = (file: string, shown = file) => readMap(readText(file), shown);
    const shown = options.path ?? oursFile;
    const [base, ours, theirs] = [read(baseFile, `${shown} (as it was)`), read(oursFile, `${shown} (ours)`), read(theirsFile, `${shown} (theirs)`)];
    const { map, edit, conflicts } = mergeMaps(base, ours, theirs, 'merged');
    writeWhole(oursFile, encode(serialiseMap(map)));
    const told = conflictsFile(shown);
    if (conflicts.length > 0) writeWhole(told, encode(`${JSON.stringify({ format: 1, map: shown, conflicts }, null, 2)}\n`));
    else if (existsSync(told)) rmSync(told);
    const taken = edit?.changes.length ?? 0;
    return Promise.resolve({
      code: conflicts.length > 0 ? 1 : 0,
      result: { map: shown, taken, conflicts: conflicts.map(({ key }) => key) },
      text:
        conflicts.length === 0
          ? `${shown}: merged, ${taken} members taken from the other side.`
          : `${shown}: ${conflicts.length} members were changed on both sides and stay as ours has them: ${conflicts.map(({ key }) => key).join(', ')}.\nSettle them in the application, or in ${told}.`,
    });
  },
};
