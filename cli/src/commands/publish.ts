import { existsSync, statSync } from 'node:fs';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { openRelease } from '@violet-crate/core/release/pack';
import { publishRelease } from '@violet-crate/host/workshopClient';
import type { Command } from '../command.ts';
import { needToken, WORKSHOP_OPTIONS, workshopOf } from '../workshopOptions.ts';
import { readInput } from '../readInput.ts';

export const publishCommand: Command = {
  summary: 'Publish a package on a workshop; an upload that breaks off goes on where it ended.',
  usage: 'crate publish FILE.zip [--workshop URL] [--token TOKEN] [--notes TEXT] [--private]',
  options: {
    ...WORKSHOP_OPTIONS,
    notes: { value: 'TEXT', summary: 'what changed since the last version, in Markdown' },
    organisation: { value: 'NAME', summary: 'who publishes it, for a new mod; you yourself without it' },
    private: { summary: 'a new mod is seen by its organisation and testers only' },
  },
  arguments: [1, 1],
  async run([file], options, progress) {
    if (!existsSync(file) || !statSync(file).isFile()) throw new UnreadableInput('file-missing', `There is no file ${file}.`, { file });
    const zip = readInput(file);
    openRelease(zip, file);
    const release = await publishRelease(workshopOf(options), needToken(options), zip, {
      notes: options.notes,
      organisation: options.organisation,
      visibility: options.private === undefined ? 'code' : 'private',
      onProgress: (sent) => progress(`${Math.round((sent / zip.length) * 100)} % sent`),
    });
    return { code: 0, result: { ...release }, text: `Published ${release.title} ${release.version}. Share code: ${release.shareCode}` };
  },
};
