/** A call of `bough`, from its words to its exit code. */
import { RemedyError } from '../core/contracts/remedy';
import { READS, WRITTEN_FORMATS } from '../core/formats';
import { WriteError } from '../core/formats';
import { ReadError } from '../core/formats/errors';
import { type Command, READING, parseCall, print, usageOf } from './command';
import { auditCommand } from './commands/audit';
import { bindCommand } from './commands/bind';
import { convertCommand } from './commands/convert';
import { copyWeightsCommand } from './commands/copy-weights';
import { fixCommand } from './commands/fix';
import { listCommands } from './commands/lists';
import { measureCommand } from './commands/measure';
import { matchCommand } from './commands/match';
import { receiveCommand } from './commands/receive';
import { graftCommand } from './commands/graft';
import { renameCommand } from './commands/rename';
import { remapCommand } from './commands/remap';
import { surfaceCommand } from './commands/surface';
import { treeCommand } from './commands/tree';
import { trialCommand } from './commands/trial';
import { verifyCommand } from './commands/verify';
import { waiveCommand } from './commands/waive';
import { weightsCommand } from './commands/weights';
import { UsageError } from './errors';

/** Every command, in the order of the work. A new one is one file and one line here. */
const COMMANDS: readonly Command[] = [
  auditCommand,
  waiveCommand,
  measureCommand,
  surfaceCommand,
  trialCommand,
  weightsCommand,
  bindCommand,
  copyWeightsCommand,
  treeCommand,
  renameCommand,
  graftCommand,
  matchCommand,
  remapCommand,
  receiveCommand,
  fixCommand,
  convertCommand,
  verifyCommand,
  ...listCommands,
];

/** What `bough help` prints, from the commands themselves. */
function usage(): string {
  const { scale, ...said } = READING;
  const reading = Object.entries(said).map(([name, { value }]) => `--${name} ${value}`);
  return [
    ...COMMANDS.map(usageOf),
    '',
    `FILE: ${READS.join(' ')}    OUT: ${WRITTEN_FORMATS.map(({ writer }) => `.${writer.ending}`).join(' ')}`,
    `${reading.join('  and  ')}   for files that do not say their unit or axes`,
    `--scale ${scale.value}   takes every file so many times as large`,
  ].join('\n');
}

/** Runs one call; gives its exit code: 0: nothing stops hand-off; 1: something does; 2: could not read, or bad usage. */
export function run([name, ...args]: readonly string[]): number {
  if (name === undefined || name === 'help' || name === '--help') {
    print(usage());
    return name === undefined ? 2 : 0;
  }
  try {
    const command = COMMANDS.find((command) => command.name === name);
    if (!command) throw new UsageError(`There is no command “${name}”; “bough help” lists them.`);
    const { given, positionals } = parseCall(command, args);
    return command.run(given, positionals);
  } catch (error) {
    process.stderr.write(`${sentenceOf(error)}\n`);
    return 2;
  }
}

function sentenceOf(error: unknown): string {
  const why = error instanceof Error ? error.message : String(error);
  if ([UsageError, ReadError, WriteError, RemedyError].some((known) => error instanceof known)) return why;
  return `The file could not be worked on: ${why}. Please keep it and report this.`;
}
