/** `crate COMMAND`: the road from set-up to published without a browser. docs/cli.md describes the results. */

import { parseArgs } from 'node:util';
import { UnreadableInput } from '@violet-crate/core/finding';
import { UsageError, type Command, type Options } from './command.ts';
import { buildCommand } from './commands/build.ts';
import { checkCommand } from './commands/check.ts';
import { convertCommand } from './commands/convert.ts';
import { exportCommand } from './commands/export.ts';
import { inspectCommand } from './commands/inspect.ts';
import { installCommand } from './commands/install.ts';
import { newCommand } from './commands/new.ts';
import { packCommand } from './commands/pack.ts';
import { publishCommand } from './commands/publish.ts';
import { trialCommand } from './commands/trial.ts';
import { own } from '@violet-crate/core/own';

const COMMANDS: Record<string, Command> = {
  new: newCommand,
  convert: convertCommand,
  check: checkCommand,
  build: buildCommand,
  inspect: inspectCommand,
  export: exportCommand,
  trial: trialCommand,
  pack: packCommand,
  publish: publishCommand,
  install: installCommand,
};

const FOOTER = `Every command takes --json (one JSON document on standard output) and --help.
Exit codes: 0 fine, 1 blockers found, 2 bad usage or unreadable input.`;

function overview(): string {
  const rows = Object.entries(COMMANDS).map(([name, c]) => `  ${name.padEnd(9)}${c.summary}`);
  return `crate: make, check, build and publish mods.\n\n${rows.join('\n')}\n\n${FOOTER}`;
}

function help(command: Command): string {
  const rows = Object.entries(command.options).map(
    ([name, o]) => `  ${`--${name} ${o.value}`.padEnd(22)}${o.summary}${o.required ? ' (required)' : ''}`,
  );
  return `${command.summary}\n\n  ${command.usage}\n\n${rows.join('\n')}\n\n${FOOTER}`;
}

function readOptions(command: Command, argv: string[]): { args: string[]; options: Options } {
  let parsed;
  try {
    parsed = parseArgs({
      args: argv,
      allowPositionals: true,
      options: {
        json: { type: 'boolean' },
        help: { type: 'boolean', short: 'h' },
        ...Object.fromEntries(Object.keys(command.options).map((name) => [name, { type: 'string' as const }])),
      },
    });
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('. ')[0].replace(/\.$/, '')}. Usage: ${command.usage}`);
  }
  const options = parsed.values as unknown as Options;
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
    const known = error instanceof UnreadableInput || error instanceof UsageError || (error as NodeJS.ErrnoException).code !== undefined;
    if (!known) throw error;
    const problem = error as Error;
    const place = error instanceof UnreadableInput ? error.place : {};
    const errorCode = error instanceof UnreadableInput ? error.code : error instanceof UsageError ? 'usage' : (error as NodeJS.ErrnoException).code;
    if (json) out(JSON.stringify({ command: name, ok: false, error: { code: errorCode, message: problem.message, ...place } }));
    process.stderr.write(`${problem.message}\n`);
    return 2;
  }
}
