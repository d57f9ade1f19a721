/** `crate COMMAND`: the road from set-up to published without a browser. docs/cli.md describes the results. */

import { parseArgs } from 'node:util';
import type { Place } from '@violet-crate/core/place';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { diskFull } from '@violet-crate/host/diskFull';
import { UsageError, type Command, type Options } from './command.ts';
import { buildCommand } from './commands/build.ts';
import { checkCommand } from './commands/check.ts';
import { convertCommand } from './commands/convert.ts';
import { exportCommand } from './commands/export.ts';
import { inspectCommand } from './commands/inspect.ts';
import { installCommand } from './commands/install.ts';
import { launchCommand } from './commands/launch.ts';
import { newCommand } from './commands/new.ts';
import { packCommand } from './commands/pack.ts';
import { publishCommand } from './commands/publish.ts';
import { doctorCommand } from './commands/doctor.ts';
import { gamesCommand } from './commands/games.ts';
import { recordsCommand } from './commands/records.ts';
import { bankCommand } from './commands/bank.ts';
import { linksCommand } from './commands/links.ts';
import { requireCommand } from './commands/require.ts';
import { loginCommand } from './commands/login.ts';
import { modsCommand } from './commands/mods.ts';
import { releaseCommand } from './commands/release.ts';
import { verifyCommand } from './commands/verify.ts';
import { mergeMapCommand } from './commands/mergeMap.ts';
import { patchCommand } from './commands/patch.ts';
import { packsCommand } from './commands/packs.ts';
import { profileCommand } from './commands/profile.ts';
import { syncCommand } from './commands/sync.ts';
import { trialCommand } from './commands/trial.ts';
import { own } from '@violet-crate/core/own';

const COMMANDS: Record<string, Command> = {
  doctor: doctorCommand,
  games: gamesCommand,
  packs: packsCommand,
  profile: profileCommand,
  new: newCommand,
  convert: convertCommand,
  check: checkCommand,
  links: linksCommand,
  require: requireCommand,
  build: buildCommand,
  inspect: inspectCommand,
  export: exportCommand,
  trial: trialCommand,
  launch: launchCommand,
  pack: packCommand,
  verify: verifyCommand,
  login: loginCommand,
  publish: publishCommand,
  release: releaseCommand,
  install: installCommand,
  mods: modsCommand,
  sync: syncCommand,
  records: recordsCommand,
  bank: bankCommand,
  patch: patchCommand,
  'merge-map': mergeMapCommand,
};

const FOOTER = `Every command takes --json (one JSON document on standard output) and --help.
Exit codes: 0 fine, 1 blockers found, 2 bad usage or unreadable input.`;

function overview(): string {
  const rows = Object.entries(COMMANDS).map(([name, c]) => `  ${name.padEnd(11)}${c.summary}`);
  return `crate: make, check, build and publish mods.\n\n${rows.join('\n')}\n\n${FOOTER}`;
}

function help(command: Command): string {
  const rows = Object.entries(command.options).map(
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
    out(overview());
    return name ? 0 : 2;
  }
  try {
    const command = own(COMMANDS, name);
    if (!command) throw new UsageError(`There is no command "${name}". Commands: ${Object.keys(COMMANDS).join(', ')}.`);
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
