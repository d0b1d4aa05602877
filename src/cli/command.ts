/** What a command of `bough` is: a name, its usage, its options, and what it does. */
import { existsSync } from 'node:fs';
import { parseArgs } from 'node:util';
import type { Brief } from '../core/house/brief';
import { readBrief } from '../core/house/read-brief';
import { BRIEFS, briefById } from '../core/house/briefs';
import { type Skeleton, skeletonOf } from '../core/anatomy/skeleton';
import { SKELETONS, skeletonById } from '../core/anatomy/skeletons';
import type { ReadOptions } from '../core/formats';
import { UNITS } from '../core/contracts/units';
import { UsageError } from './errors';
import { bytesOf, readFile } from './files';

/** An option of a command: what its value is called in the usage; absent for one that is on or off. */
export interface Option {
  readonly value?: string;
  /** Named in the usage without brackets. */
  readonly needed?: true;
}

export type Options = Readonly<Record<string, Option>>;

/** What a call gave: strings for options with a value, true for the others. */
export type Given = Readonly<Record<string, string | boolean | undefined>>;

export interface Command {
  readonly name: string;
  /** What stands behind the name without a dash, as the usage shows it. */
  readonly takes: string;
  readonly options: Options;
  /** Gives the exit code. Throws {@link UsageError}, ReadError or RemedyError with one sentence. */
  run(given: Given, positionals: readonly string[]): number;
}

/** Options of every command that reads files: what they say of those that do not say it themselves. */
export const READING: Options = {
  unit: { value: UNITS.map((unit) => unit.short).join('|') },
  up: { value: 'x|y|z' },
  scale: { value: 'N' },
};

/** One line of the usage, from the command itself. */
export function usageOf(command: Command): string {
  const own = Object.entries(command.options).filter(([name]) => !(name in READING));
  const options = own.map(([name, { value, needed }]) => {
    const text = value ? `--${name} ${value}` : `--${name}`;
    return needed ? text : `[${text}]`;
  });
  return ['bough', command.name, command.takes, ...options].filter(Boolean).join(' ');
}

export function parseCall(
  command: Command,
  args: readonly string[],
): { given: Given; positionals: string[] } {
  const options = Object.fromEntries(
    Object.entries(command.options).map(([name, { value }]) => [
      name,
      { type: value ? ('string' as const) : ('boolean' as const) },
    ]),
  );
  try {
    const { values, positionals } = parseArgs({ args: [...args], options, allowPositionals: true });
    return { given: values as Given, positionals };
  } catch (error) {
    const why = error instanceof Error ? error.message.split('\n')[0] : 'The options cannot be read.';
    throw new UsageError(why);
  }
}

export const textOf = (given: Given, name: string): string | undefined =>
  typeof given[name] === 'string' ? given[name] : undefined;

/** Beyond these a factor makes numbers that no file holds well. */
const SMALLEST_SCALE = 1e-6;
const LARGEST_SCALE = 1e6;

/** What the call says of files that do not say their unit or axes, and how many times as large they are taken. */
export function readOptionsOf(given: Given): ReadOptions {
  const unit = UNITS.find((unit) => unit.short === given.unit || unit.word === given.unit);
  if (given.unit !== undefined && !unit)
    throw new UsageError(
      `--unit takes one of ${UNITS.map((unit) => unit.short).join(', ')}, not “${String(given.unit)}”.`,
    );
  if (given.up !== undefined && !['x', 'y', 'z'].includes(String(given.up)))
    throw new UsageError(`--up takes x, y or z, not “${String(given.up)}”.`);
  const scale = given.scale === undefined ? 1 : Number(given.scale);
  if (!(scale >= SMALLEST_SCALE && scale <= LARGEST_SCALE))
    throw new UsageError(
      `--scale takes a number from ${SMALLEST_SCALE} to ${LARGEST_SCALE}, not “${String(given.scale)}”.`,
    );
  return {
    ...(scale === 1 ? {} : { scale }),
    ...(unit ? { unitMetres: unit.metres } : {}),
    ...(given.up === undefined ? {} : { upAxis: given.up as 'x' | 'y' | 'z' }),
  };
}

/** A brief by its id, or from a .json file. */
export function briefOf(given: Given): Brief {
  const id = textOf(given, 'brief') ?? 'handset';
  if (id.endsWith('.json') && existsSync(id)) return briefFromFile(id);
  const brief = briefById(id);
  if (!brief)
    throw new UsageError(
      `There is no brief “${id}”; choose one of ${BRIEFS.map((brief) => brief.id).join(', ')}, or a .json file.`,
    );
  return brief;
}

function briefFromFile(file: string): Brief {
  try {
    return readBrief(JSON.parse(new TextDecoder().decode(bytesOf(file))));
  } catch (error) {
    throw new UsageError(
      `“${file}” is not a brief: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
}

/** A skeleton of the house by its id, or the one in a character's file. */
export function skeletonFor(id: string | undefined): Skeleton {
  const choices = `${SKELETONS.map((skeleton) => skeleton.id).join(', ')}, or a file`;
  if (!id)
    throw new UsageError(`Say which skeleton with --to: ${choices}; or name a --brief, which wants one.`);
  const known = skeletonById(id);
  if (known) return known;
  if (!existsSync(id)) throw new UsageError(`There is no skeleton “${id}”; choose one of ${choices}.`);
  const skeleton = skeletonOf(readFile(id));
  if (skeleton.bones.length === 0)
    throw new UsageError(`“${id}” holds no bones; choose a file with a skeleton.`);
  return skeleton;
}

export const print = (line: string): void => {
  process.stdout.write(`${line}\n`);
};

export const printJson = (value: unknown): void => print(JSON.stringify(value, null, 1));
