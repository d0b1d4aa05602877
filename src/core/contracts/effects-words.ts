/** What a step did, in words. */
import type { ChangeEffects, Effects, RemapEffects } from './effects';
import { type LengthUnit, fineUnit, inUnit, unitSign } from './units';

/** A length that a step moved something by, as people read it: in the brief's unit, less than a metre in millimetres. */
export function smallLength(metres: number, unit: LengthUnit): string {
  if (metres < 1e-6) return `0 ${unitSign(fineUnit(unit))}`;
  const shown = metres < 1 ? fineUnit(unit) : unit;
  const value = inUnit(metres, shown);
  return `${value < 999.5 ? value.toPrecision(3) : Math.round(value)} ${unitSign(shown)}`;
}

/**
 * What a step touched, and that nothing else moved, in one or two sentences. Empty where there is nothing to
 * tell.
 */
export function effectsText(effects: Effects, unit: LengthUnit): string {
  if (effects.kind === 'changed') return changeText(effects, unit);
  return effects.kind === 'remapped' ? remapText(effects, unit) : '';
}

const short = (name: string): string => {
  if (name.length <= 28) return name;
  return `${name.slice(0, 14)}…${name.slice(-13)}`;
};

/** How many, and which: the first two by name; all of them stand in the ledger. */
function many(names: readonly string[], one: string, more = `${one}s`): string[] {
  const count = names.length;
  if (count === 0) return [];
  const shown = names.slice(0, count === 3 ? 3 : 2).map(short);
  return [`${count} ${count === 1 ? one : more} (${shown.join(', ')}${count > 3 ? ' …' : ''})`];
}

function changeText(effects: ChangeEffects, unit: LengthUnit): string {
  const touched = [
    ...many(effects.nodes, 'node'),
    ...many(effects.meshes, 'mesh', 'meshes'),
    ...many(effects.joints, 'bind'),
    ...many(effects.clips, 'clip'),
    ...many(effects.removed, 'node taken out', 'nodes taken out'),
  ];
  const sentences = [
    touched.length > 0 ? `Touched ${touched.join(', ')}.` : 'Node, mesh, bind and clip stay as they were.',
  ];
  if (effects.outside.length > 0)
    sentences.push(`Beyond what it promised it changed ${effects.outside.join(', ')}.`);
  if (effects.sets && effects.sets.length > 0) sentences.push(`${effects.sets.join('; ')}.`);
  return [...sentences, othersText(effects, unit)].join(' ');
}

function othersText({ others, scale }: ChangeEffects, unit: LengthUnit): string {
  if (others.meshes === 0) return 'There was nothing else that could have moved.';
  const over = others.holds === 'at rest' ? 'at rest' : `over ${others.poses} trial poses`;
  const scaled = scale === 1 ? '' : ` but for the factor ${Number(scale.toPrecision(6))}`;
  if (others.largest < 2e-6) return `Nothing else changed${scaled}: 0 mm ${over}.`;
  return `The rest moved up to ${smallLength(others.largest, unit)}${scaled} ${over} (${others.where}).`;
}

/** What lies off by less is worth no word, metres. */
const HARDLY = 1e-6;

function remapText(
  { weight, vertices, deviation, price, bones, poses }: RemapEffects,
  unit: LengthUnit,
): string {
  const kept = Math.abs(weight.after - weight.before) < 1e-4 * Math.max(1, weight.before);
  return [
    `${bones[0]} bones became ${bones[1]}.`,
    `Weight ${weight.before.toFixed(2)} before, ${weight.after.toFixed(2)} after${kept ? ', nothing lost' : ''}; ${vertices.trimmed} points lost a bone, ${vertices.unweighted} carry none.`,
    poses === 0
      ? 'It has no mesh, so nothing could be compared.'
      : `Over ${poses} poses it moves as before to ${smallLength(deviation.max, unit)}, 95 of 100 points to ${smallLength(deviation.p95, unit)}.`,
    ...(price && deviation.rms > HARDLY
      ? [
          `In the mean the skeleton itself costs ${smallLength(price.rms, unit)}, and the move adds ${smallLength(deviation.rms - price.rms, unit)}.`,
        ]
      : []),
  ].join(' ');
}
