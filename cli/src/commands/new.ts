import { existsSync, readdirSync, statSync } from 'node:fs';
import { nameProblem } from '@violet-crate/core/crate/naming';
import { newCrateTree, TEMPLATES, templatesOf, type Template } from '@violet-crate/core/crate/template';
import { UsageError, type Command } from '../command.ts';
import { writeTree } from '@violet-crate/host/files';
import { profileById } from '../folder.ts';

export const newCommand: Command = {
  summary: 'Make a new crate in a folder.',
  usage: 'crate new NAME --profile brinewick --template sealed-room --dir DIR',
  options: {
    profile: { value: 'ID', summary: 'the game: brinewick or skarrow', required: true },
    template: { value: 'NAME', summary: `${TEMPLATES.join(', ')}; what suits the game without it` },
    dir: { value: 'DIR', summary: 'the crate’s folder; must be new or empty', required: true },
    title: { value: 'TEXT', summary: 'title that people see (the name)' },
  },
  arguments: [1, 1],
  async run([name], options) {
    const profile = profileById(options.profile!);
    const template = (options.template ?? templatesOf(profile)[0]) as Template;
    if (!TEMPLATES.includes(template)) throw new UsageError(`Template "${template}" is not known; use ${TEMPLATES.join(' or ')}.`);
    const problem = nameProblem(profile, 'crate', name);
    if (problem) throw new UsageError(`Name "${name}": ${problem}`);
    const title = options.title ?? name;
    if (title.trim() === '') throw new UsageError('--title must not be empty; leave it out to take the name.');
    if (title.length > 120) throw new UsageError(`--title may have 120 characters; this has ${title.length}.`);
    const dir = options.dir!;
    if (existsSync(dir) && !statSync(dir).isDirectory()) throw new UsageError(`${dir} is a file, not a folder; nothing was written.`);
    if (existsSync(dir) && readdirSync(dir).length > 0) throw new UsageError(`Folder ${dir} is not empty; nothing was written.`);
    const tree = newCrateTree(profile, { name, title, template });
    writeTree(dir, tree);
    const files = [...tree.keys()].sort();
    return { code: 0, result: { name, dir, files }, text: `Made ${name} in ${dir}:\n${files.map((f) => `  ${f}`).join('\n')}` };
  },
};
