/** `crate COMMAND`: the road from set-up to published without a browser. docs/cli.md describes the results. */

import { parseArgs } from 'node:util';
import type { Place } from '@violet-crate/core/place';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { diskFull } from '@violet-crate/host/diskFull';
import { UsageError, type Command, type Options } from './command.ts';
import { own } from '@violet-crate/core/own';
import { FORCE, OUTPUTS } from './output.ts';

/** Each is loaded when it is asked for: most need much that the others do not. */
const COMMANDS: Record<string, () => Promise<Command>> = {
  doctor: async () => (await import('./commands/doctor.ts')).doctorCommand,
  games: async () => (await import('./commands/games.ts')).gamesCommand,
  packs: async () => (await import('./commands/packs.ts')).packsCommand,
  profile: async () => (await import('./commands/profile.ts')).profileCommand,
  new: async () => (await import('./commands/new.ts')).newCommand,
  convert: async () => (await import('./commands/convert.ts')).convertCommand,
  check: async () => (await import('./commands/check.ts')).checkCommand,
  links: async () => (await import('./commands/links.ts')).linksCommand,
  require: async () => (await import('./commands/require.ts')).requireCommand,
  build: async () => (await import('./commands/build.ts')).buildCommand,
  inspect: async () => (await import('./commands/inspect.ts')).inspectCommand,
  export: async () => (await import('./commands/export.ts')).exportCommand,
  trial: async () => (await import('./commands/trial.ts')).trialCommand,
  launch: async () => (await import('./commands/launch.ts')).launchCommand,
  pack: async () => (await import('./commands/pack.ts')).packCommand,
  verify: async () => (await import('./commands/verify.ts')).verifyCommand,
  login: async () => (await import('./commands/login.ts')).loginCommand,
  publish: async () => (await import('./commands/publish.ts')).publishCommand,
  release: async () => (await import('./commands/release.ts')).releaseCommand,
  install: async () => (await import('./commands/install.ts')).installCommand,
  mods: async () => (await import('./commands/mods.ts')).modsCommand,
  sync: async () => (await import('./commands/sync.ts')).syncCommand,
  records: async () => (await import('./commands/records.ts')).recordsCommand,
  bank: async () => (await import('./commands/bank.ts')).bankCommand,
  patch: async () => (await import('./commands/patch.ts')).patchCommand,
  'merge-map': async () => (await import('./commands/mergeMap.ts')).mergeMapCommand,
};

const FOOTER = `Every command takes --json (one JSON document on standard output) and --help.
Exit codes: 0 fine, 1 blockers found, 2 bad usage or unreadable input.`;

async function overview(): Promise<string> {
  const rows = await Promise.all(Object.entries(COMMANDS).map(async ([name, load]) => `  ${name.padEnd(11)}${(await load()).summary}`));
  return `crate: make, check, build and publish mods.\n\n${rows.join('\n')}\n\n${FOOTER}`;
}

/** Whether a command writes where its user says. */
const writes = (command: Command): boolean => OUTPUTS.some((name) => Object.hasOwn(command.options, name));

function help(command: Command): string {
  const options: Command['options'] = { ...command.options, ...(writes(command) ? { force: FORCE } : {}) };
  const rows = Object.entries(options).map(
    ([name, o]) => `  ${`--${name} ${o.value ?? ''}`.padEnd(24)}${o.summary}${o.required ? ' (required)' : ''}`,
  );
  return `${command.summary}\n\n  ${command.usage}\n\n${rows.join('\n')}\n\n${FOOTER}`;
}

function readOptions(command: Command, argv: string[]): { args: string[]; options: Options } {
  let parsed;
  try {
    parsed = parseArgs({
      args: joinNegatives(argv),
      allowPositionals: true,
      options: {
        json: { type: 'boolean' },
        help: { type: 'boolean', short: 'h' },
        ...(writes(command) ? { force: { type: 'boolean' as const } } : {}),
        ...Object.fromEntries(
          Object.entries(command.options).map(([name, { value }]) => [
            name,
            { type: value === undefined ? ('boolean' as const) : ('string' as const) },
          ]),
        ),
      },
    });
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('. ')[0].replace(/\.$/, '')}. Usage: ${command.usage}`);
  }
  const options = Object.fromEntries(Object.entries(parsed.values).map(([name, value]) => [name, value === true ? '' : value])) as Options;
  for (const [name, option] of Object.entries(command.options))
    if (option.required && options[name] === undefined) throw new UsageError(`--${name} is needed. Usage: ${command.usage}`);
  const [least, most] = command.arguments;
  if (parsed.positionals.length < least || parsed.positionals.length > most) throw new UsageError(`Usage: ${command.usage}`);
  return { args: parsed.positionals, options };
}

export async function main(argv: string[]): Promise<number> {
  const json = argv.includes('--json');
  const [name, ...rest] = argv.filter((_, i) => i > 0 || argv[0] !== '--');
  const out = (text: string) => process.stdout.write(`${text}\n`);
  if (!name || name === '--help' || name === '-h' || name === 'help') {
    out(await overview());
    return name ? 0 : 2;
  }
  try {
    const load = own(COMMANDS, name);
    if (!load) throw new UsageError(`There is no command "${name}". Commands: ${Object.keys(COMMANDS).join(', ')}.`);
    const command = await load();
    if (rest.includes('--help') || rest.includes('-h')) {
      out(help(command));
      return 0;
    }
    const { args, options } = readOptions(command, rest);
    const { code, result, text } = await command.run(args, options, (line) => process.stderr.write(`${line}\n`));
    out(json ? JSON.stringify({ command: name, ok: code === 0, ...result }) : text);
    return code;
  } catch (error) {
    const { code, message, place = {} } = explain(error);
    if (json) out(JSON.stringify({ command: name, ok: false, error: { code, message, ...place } }));
    process.stderr.write(`${message}\n`);
    if (process.env.VIOLET_CRATE_DEBUG && error instanceof Error) process.stderr.write(`${error.stack}\n`);
    return 2;
  }
}

/** What went wrong, as one sentence; never the text of a library or of the system. */
function explain(error: unknown): { code: string; message: string; place?: Place } {
  if (error instanceof UnreadableInput) return { code: error.code, message: error.message, place: error.place };
  if (error instanceof UsageError) return { code: 'usage', message: error.message };
  const full = diskFull(error, process.cwd(), 1);
  if (full) return { code: full.code, message: full.message };
  const { code = '', path = '' } = error as NodeJS.ErrnoException;
  const reason = SYSTEM[code];
  if (reason) return { code, message: `${path || 'A file'}: ${reason}` };
  return {
    code: 'internal',
    message: 'Something went wrong within the program itself. Run it with VIOLET_CRATE_DEBUG=1 to see where, and tell us.',
  };
}

const SYSTEM: Record<string, string> = {
  ENOENT: 'there is no such file or folder.',
  EISDIR: 'it is a folder, where a file is needed.',
  ENOTDIR: 'it is a file, where a folder is needed.',
  EEXIST: 'it is a file, where a folder is needed.',
  EACCES: 'you may not read or write it. Change its permissions.',
  EPERM: 'you may not read or write it. Change its permissions.',
  EROFS: 'its disk can only be read.',
  ELOOP: 'it is a link that leads round in a circle.',
  ENAMETOOLONG: 'its path is too long for this system.',
  EMFILE: 'too many files are open at once.',
};

/** `--luxel -5`: a number that begins with a dash belongs to the option before it, and is judged by that. */
function joinNegatives(argv: readonly string[]): string[] {
  const out: string[] = [];
  for (const argument of argv) {
    const last = out.at(-1);
    if (/^-\d/.test(argument) && last && /^--[a-z-]+$/.test(last)) out[out.length - 1] = `${last}=${argument}`;
    else out.push(argument);
  }
  return out;
}
