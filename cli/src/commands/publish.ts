import { existsSync, readFileSync, statSync } from 'node:fs';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { openRelease } from '@violet-crate/core/release/pack';
import { publishRelease } from '@violet-crate/host/workshopClient';
import type { Command } from '../command.ts';

export const publishCommand: Command = {
  summary: 'Publish a package on a workshop.',
  usage: 'crate publish FILE.zip --workshop URL --token TOKEN',
  options: {
    workshop: { value: 'URL', summary: 'address of the workshop', required: true },
    token: { value: 'TOKEN', summary: 'your token there', required: true },
  },
  arguments: [1, 1],
  async run([file], options) {
    if (!existsSync(file) || !statSync(file).isFile()) throw new UnreadableInput('file-missing', `There is no file ${file}.`, { file });
    const zip = new Uint8Array(readFileSync(file));
    openRelease(zip, file);
    const release = await publishRelease(options.workshop!, options.token!, zip);
    return { code: 0, result: { ...release }, text: `Published ${release.title} ${release.version}. Share code: ${release.shareCode}` };
  },
};
