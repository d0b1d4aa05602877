import { type Brief } from '../../core/house/brief';
import { type LengthUnit, inUnit, fineUnit, unitSign } from '../../core/contracts/units';
import type { Character } from '../../core/character/model';
import type { Crosswalk } from '../../core/anatomy/crosswalk';
import { crosswalkFromFile, crosswalkToFile } from '../../core/rooms/crosswalk/file';
import { conformityOf, conformityText } from '../../core/anatomy/conformity';
import type { Proof } from '../../core/rooms/crosswalk/proof';
import { type DeviationFloor, addsTooMuch } from '../../core/rooms/crosswalk/deviation-floor';
import { type ProvenMove, provenMove } from '../../core/rooms/crosswalk/proven-move';
import { arrivedFrom } from '../../core/house/arrival';
import { finish } from '../../core/motion/example';
import { LENGTHS } from '../../core/rooms/crosswalk/mesh-mode';
import { REMAP_MODES, REST_BY, type Remapped, isRestSolved } from '../../core/rooms/crosswalk/remap';
import { type Skeleton, skeletonOf } from '../../core/anatomy/skeleton';
import { skeletonWanted } from '../../core/anatomy/skeletons/wanted';
import { suggest } from '../../core/anatomy/suggest';
import {
  type Command,
  type Given,
  READING,
  briefOf,
  print,
  printJson,
  readOptionsOf,
  skeletonFor,
  textOf,
} from '../command';
import { UsageError } from '../errors';
import { bytesOf, readFile, writeBytes, writeFile } from '../files';
import { pairRows } from '../pairs';
import { arrivalReport, arrivalText, receiverOf } from '../receiver';

/** The skeleton that was asked for; where none was, and a brief was named, the one that this wants. */
function targetOf(given: Given, brief: Brief): Skeleton {
  const asked = textOf(given, 'to');
  const wanted = asked === undefined && given.brief !== undefined ? skeletonWanted(brief) : undefined;
  return wanted ?? skeletonFor(asked);
}

/** Moves the weights onto another skeleton and says what came of it. */
export const remapCommand: Command = {
  name: 'remap',
  takes: 'FILE',
  options: {
    to: { value: 'SKELETON' },
    crosswalk: { value: 'C' },
    'save-crosswalk': { value: 'C' },
    limit: { value: 'N' },
    mode: { value: 'target|mesh' },
    lengths: { value: 'kept|taken' },
    rest: { value: 'example|posed' },
    plain: {},
    motion: { value: 'FILE' },
    receiver: { value: 'R' },
    out: { value: 'F', needed: true },
    brief: { value: 'B' },
    json: {},
    ...READING,
  },
  run(given, files) {
    if (files.length !== 1) throw new UsageError('Name one file to remap.');
    const out = textOf(given, 'out');
    if (!out) throw new UsageError('Say where to write with --out.');
    const mode = oneOf(given, 'mode', REMAP_MODES, 'target');
    const lengths = oneOf(given, 'lengths', LENGTHS, 'kept');
    if (given.lengths !== undefined && mode !== 'mesh')
      throw new UsageError(
        '--lengths says how long bones are when the mesh moves: it goes with --mode mesh.',
      );
    const rest = oneOf(given, 'rest', REST_BY, 'example');
    if (given.rest !== undefined && !isRestSolved({ mode, lengths, rest: 'example' }))
      throw new UsageError(
        '--rest says where points stand at rest when the mesh moves and its bones keep their lengths: it goes with --mode mesh --lengths kept.',
      );
    const brief = briefOf(given);
    const limit = limitOf(given, brief);
    const motions = motionsOf(textOf(given, 'motion'));
    const asked = textOf(given, 'receiver');
    const receiver = asked ? receiverOf(asked) : null;
    const character = readFile(files[0], readOptionsOf(given));
    const source = skeletonOf(character);
    if (source.bones.length === 0)
      throw new UsageError(`“${files[0]}” holds no bones; there is nothing to remap.`);
    const target = targetOf(given, brief);
    const crosswalk = crosswalkOf(textOf(given, 'crosswalk'), source, target);
    const weights = given.plain ? 'rules' : 'example';
    const options = { limit, skins: brief.skins, weights, mode, lengths, rest, motions } as const;
    const {
      moved: result,
      poses,
      proof,
      price,
    } = moveOrSay(() => finish(provenMove(character, target, crosswalk, options)));
    const notes = [...result.report.notes, ...writeFile(result.character, out)];
    const kept = textOf(given, 'save-crosswalk');
    if (kept) writeBytes(kept, JSON.stringify(crosswalkToFile(crosswalk, source, target), null, 1));
    const written = readFile(out, {});
    const arrival = receiver && arrivalReport(receiver, arrivedFrom(result, receiver), poses, brief.unit);
    const report = reportOn(source, target, crosswalk, result, { proof, price }, brief, notes, written);
    if (given.json) printJson(arrival ? { ...report, arrival } : report);
    else printReport(report, character, target, proof);
    if (receiver && arrival && !given.json) for (const line of arrivalText(receiver, arrival)) print(line);
    return report.met < LEAST_MET || report.addsTooMuch ? 1 : 0;
  },
};

/** The file whose clips are examples as well. */
function motionsOf(file: string | undefined): Character[] {
  if (!file) return [];
  const motion = readFile(file);
  if (motion.clips.length === 0) throw new UsageError(`“${file}” holds no motion to take as an example.`);
  return [motion];
}

/** What cannot be done for these skeletons is one sentence. */
function moveOrSay(work: () => ProvenMove): ProvenMove {
  try {
    return work();
  } catch (error) {
    throw new UsageError(error instanceof Error ? error.message : String(error));
  }
}

/** One of the words that an option takes. */
function oneOf<T extends string>(given: Given, option: string, words: readonly T[], otherwise: T): T {
  const word = textOf(given, option) ?? otherwise;
  const known = words.find((otherWord) => otherWord === word);
  if (!known) throw new UsageError(`--${option} takes ${words.join(' or ')}, not “${word}”.`);
  return known;
}

/** Where less of the weight than this finds a counterpart, the skeleton is hardly the one that was meant. */
const LEAST_MET = 0.5;

/** Share of all weight whose bones have a counterpart; 1 where nothing carries any. */
function metShare(source: Skeleton, crosswalk: Crosswalk): number {
  const weightOf = (rules: Crosswalk) =>
    rules.reduce((sum, rule) => sum + source.bones[rule.source].weight, 0);
  const all = weightOf(crosswalk);
  return all === 0 ? 1 : weightOf(crosswalk.filter((rule) => rule.target >= 0)) / all;
}

function limitOf(given: Given, brief: Brief): number {
  const limit = given.limit === undefined ? brief.limits.influences : Number(given.limit);
  if (!Number.isInteger(limit) || limit < 1)
    throw new UsageError(`--limit takes a whole number from 1, not “${String(given.limit)}”.`);
  return limit;
}

function crosswalkOf(file: string | undefined, source: Skeleton, target: Skeleton): Crosswalk {
  if (!file) return suggest(source, target);
  try {
    return crosswalkFromFile(JSON.parse(new TextDecoder().decode(bytesOf(file))), source, target);
  } catch (error) {
    const why = error instanceof Error ? error.message : 'it cannot be read';
    throw new UsageError(`“${file}” is not a crosswalk for these skeletons: ${why}`);
  }
}

type Report = ReturnType<typeof reportOn>;

const offIn = ({ max, rms, p95 }: DeviationFloor, unit: LengthUnit) => ({
  max: inUnit(max, unit),
  rms: inUnit(rms, unit),
  p95: inUnit(p95, unit),
});

/** What solving by example changed; null where the weights are those of the rules. */
function exampleOf({ character, report: { example } }: Remapped, unit: LengthUnit) {
  if (!example) return null;
  const { changed, bones, limited } = example;
  return {
    changed,
    bones: bones.map(({ node, points, most }) => ({ bone: character.nodes[node].name, points, most })),
    limited: {
      points: limited.points,
      plain: inUnit(limited.plain, unit),
      chosen: inUnit(limited.chosen, unit),
      unit,
    },
  };
}

/** How far the rest shape goes from the posed one; null where it was left as posed. */
function restOf({ character, report: { rest } }: Remapped, unit: LengthUnit) {
  if (!rest) return null;
  const { moved, rms, max, stretch, heldBack, bones } = rest;
  return {
    moved,
    rms: inUnit(rms, unit),
    max: inUnit(max, unit),
    unit,
    stretch,
    heldBack,
    bones: bones.map(({ node, points, most }) => ({
      bone: character.nodes[node].name,
      points,
      most: inUnit(most, unit),
    })),
  };
}

function reportOn(
  source: Skeleton,
  target: Skeleton,
  crosswalk: Crosswalk,
  result: Remapped,
  { proof, price }: { readonly proof: Proof; readonly price: DeviationFloor },
  { unit, proofTolerance }: Brief,
  notes: readonly string[],
  written: Character,
) {
  return {
    met: metShare(source, crosswalk),
    pairs: pairRows(source, target, crosswalk),
    weight: result.report.weight,
    vertices: result.report.vertices,
    skin: result.report.skin,
    deviation: { ...offIn(proof, unit), unit },
    floor: { ...offIn(price, unit), unit },
    addsTooMuch: addsTooMuch(price, proof, proofTolerance),
    example: exampleOf(result, unit),
    rest: restOf(result, unit),
    conformity: conformityOf(written, target),
    notes,
  };
}

function printReport(report: Report, character: Character, target: Skeleton, proof: Proof): void {
  const { pairs, weight, vertices, deviation } = report;
  const met = pairs.filter((pair) => pair.target.length > 0).length;
  print(`${met} of ${pairs.length} bones of ${character.name} have a counterpart in ${target.title}.`);
  print(
    `Weight ${weight.before.toFixed(2)} before, ${weight.after.toFixed(2)} after; ${vertices.trimmed} vertices lost an influence, ${vertices.unweighted} carry none.`,
  );
  if (proof.compared === 0) print('It has no mesh, so nothing could be compared.');
  else
    print(
      `Largest difference over ${proof.poses.length} poses ${smallText(deviation.max, deviation.unit)}, 95th percentile ${smallText(deviation.p95, deviation.unit)}.`,
    );
  for (const line of priceText(report, proof)) print(line);
  for (const line of conformityText(report.conformity)) print(line);
  if (report.met < LEAST_MET)
    print(
      `Only ${Math.round(100 * report.met)} % of the weight found a counterpart; see whether ${target.title} is the skeleton that you mean.`,
    );
  for (const note of report.notes) print(note);
}

/** What the skeleton itself costs, what this move adds, and what solving by example changed. */
function priceText(
  { deviation, floor, example, rest, addsTooMuch: isTooMuch }: Report,
  { max }: Proof,
): string[] {
  const { unit } = deviation;
  const out: string[] = [];
  const length = (x: number) => smallText(x, unit);
  if (max > WORTH_A_WORD)
    out.push(
      `No weights and no motion that were found on this skeleton bring the mesh nearer than ${length(floor.rms)} in the mean; this move adds ${length(deviation.rms - floor.rms)} to that${isTooMuch ? ', more than the brief allows' : ''}.`,
    );
  if (example)
    out.push(
      `Weights by example: ${example.changed} points got others than the rules give them${mostMoved(example)}. --plain keeps to the rules.`,
    );
  if (example && example.limited.points > 0)
    out.push(
      `The limit took a bone from ${example.limited.points} points: ${length(example.limited.chosen)} in the mean over the motions, ${length(example.limited.plain)} if the smallest weights had gone.`,
    );
  if (rest && rest.moved > 0)
    out.push(
      `Rest shape by example: ${rest.moved} points stand otherwise than the posed mesh, by ${length(rest.rms)} in the mean and ${length(rest.max)} at most${mostMoved(rest)}. --rest posed leaves it as posed.`,
    );
  return out;
}

/** A small length: in millimetres where the brief counts in metres; what no file tells is nothing. */
function smallText(x: number, unit: LengthUnit): string {
  const shown = unit === 'm' ? x * 1000 : x;
  return `${Math.abs(shown) < 5e-5 ? 0 : Number(shown.toPrecision(3))} ${unitSign(fineUnit(unit))}`;
}

/** From which difference on the price is told, metres. */
const WORTH_A_WORD = 1e-5;

function mostMoved({ bones }: { readonly bones: readonly { readonly bone: string }[] }): string {
  const names = bones.slice(0, 3).map((bone) => `“${bone.bone}”`);
  return names.length > 0 ? `, most at ${names.join(', ')}` : '';
}
